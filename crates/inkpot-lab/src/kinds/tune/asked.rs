//! A tuning, resolved and checked: free knobs, targets, players.

use inkpot_core::{AgentSheet, Casting, GameEntry, Knob, KnobError, KnobValue, Knobs, Setting};

use serde::{Deserialize, Serialize};

use super::modifier::{Modifier, held, modified};
use super::{Across, Target, Texts};
use crate::figure::Side;
use crate::{Entrant, Ground};

/// A tuning, resolved and checked.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Tune {
    /// The ground of its matches.
    pub ground: Ground,
    /// The opponent, before anything is turned.
    pub opponent: Entrant,
    /// The knobs that may be turned.
    pub free: Vec<Free>,
    /// The rungs, in order.
    pub rungs: Vec<Rung>,
    /// Languages in which every rung has its texts.
    pub languages: Vec<String>,
    /// Matches of the search at most, per rung.
    pub budget: u64,
    /// Matches of the proof, per rung and player.
    pub proof: u64,
    /// Standard error at which the search ends, in tolerances.
    pub precision: f64,
}

/// A knob that may be turned.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Free {
    /// Whose.
    pub of: Side,
    /// The knob.
    pub knob: String,
    /// The range of its values.
    pub range: FreeRange,
    /// The way it may change from rung to rung.
    pub across: Across,
    /// The largest step from rung to rung.
    pub step: Option<f64>,
}

/// The range of a free knob.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[expect(missing_docs, reason = "bounds, whether only whole numbers count, or words")]
pub enum FreeRange {
    Number { low: f64, high: f64, whole: bool },
    Words(Vec<String>),
}

/// Values of the free knobs, in their order; a word by its place among the choices.
pub type Point = Vec<f64>;

impl Free {
    /// Its name as typed: `opponent.skill`.
    pub fn name(&self) -> String {
        format!("{}.{}", self.of.name(), self.knob)
    }

    /// Lowest and highest value.
    pub fn bounds(&self) -> (f64, f64) {
        match &self.range {
            FreeRange::Number { low, high, .. } => (*low, *high),
            FreeRange::Words(words) => (0.0, words.len() as f64 - 1.0),
        }
    }

    /// Whether only whole numbers count.
    pub fn is_whole(&self) -> bool {
        !matches!(self.range, FreeRange::Number { whole: false, .. })
    }

    /// The nearest value that is allowed.
    pub fn held(&self, x: f64) -> f64 {
        let (low, high) = self.bounds();
        let x = if self.is_whole() { x.round() } else { x };
        x.clamp(low, high)
    }

    /// A value as the knob takes it.
    pub fn value(&self, x: f64) -> KnobValue {
        match &self.range {
            FreeRange::Number { .. } => KnobValue::Number(x),
            FreeRange::Words(words) => KnobValue::Word(words[(x as usize).min(words.len() - 1)].clone()),
        }
    }

    /// The number that stands for a value.
    pub fn number(&self, value: &KnobValue) -> Option<f64> {
        match (&self.range, value) {
            (FreeRange::Number { .. }, KnobValue::Number(x)) => Some(*x),
            (FreeRange::Words(words), KnobValue::Word(word)) => {
                words.iter().position(|known| known == word).map(|place| place as f64)
            }
            _ => None,
        }
    }
}

/// A rung of the ladder.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Rung {
    /// Its name.
    pub name: String,
    /// Display name by language.
    pub title: Texts,
    /// Description by language.
    pub text: Texts,
    /// The modifiers of its profile for the opponent, the player and the rules.
    pub(crate) modifiers: Modifiers,
    /// The players.
    pub players: Vec<Player>,
    /// The targets.
    pub targets: Vec<Target>,
}

/// The modifiers of a profile, by target.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub(crate) struct Modifiers {
    pub(crate) opponent: Vec<(String, Modifier)>,
    pub(crate) player: Vec<(String, Modifier)>,
    pub(crate) rules: Vec<(String, Modifier)>,
}

impl Modifiers {
    pub(crate) fn of_mut(&mut self, side: Side) -> &mut Vec<(String, Modifier)> {
        match side {
            Side::Opponent => &mut self.opponent,
            Side::Player => &mut self.player,
            Side::Rules => &mut self.rules,
        }
    }

    pub(crate) fn of(&self, side: Side) -> &[(String, Modifier)] {
        match side {
            Side::Opponent => &self.opponent,
            Side::Player => &self.player,
            Side::Rules => &self.rules,
        }
    }
}

impl Rung {
    /// The modifiers of a side, as they are written in briefs.
    pub fn modifiers_of(&self, side: Side) -> Knobs {
        let written = |modifier: &Modifier| match modifier {
            Modifier::Set(value) => value.clone(),
            Modifier::Percent(percent) => KnobValue::Word(format!("{percent:+} %")),
        };
        self.modifiers.of(side).iter().map(|(name, modifier)| (name.clone(), written(modifier))).collect()
    }
}

/// A player of a rung.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Player {
    /// The agent, before anything is turned.
    pub entrant: Entrant,
    /// The weight beside the other targets of its rung, as it was asked for.
    pub weight: f64,
}

/// The agents and values of a match at a point.
pub(crate) struct Seated {
    pub(crate) rules: Knobs,
    pub(crate) opponent: Knobs,
    pub(crate) players: Vec<Knobs>,
}

impl Tune {
    /// Matches a block of one player.
    pub(crate) fn matches_a_block(&self) -> u64 {
        self.ground.seating(2).matches_a_block() as u64
    }

    /// Matches a block of all players of a rung.
    pub(crate) fn matches_of(&self, rung: usize) -> u64 {
        self.matches_a_block() * self.rungs[rung].players.len() as u64
    }

    /// The free knobs of a side with their values at a point.
    fn free_of(&self, side: Side, point: &[f64]) -> Knobs {
        let placed = self.free.iter().zip(point).filter(|(free, _)| free.of == side);
        placed.map(|(free, x)| (free.knob.clone(), free.value(*x))).collect()
    }

    /// All values at a point of a rung.
    pub(crate) fn seated(&self, rung: usize, point: &[f64], game: &dyn GameEntry) -> Seated {
        self.try_seated(rung, point, game).expect("a tuning was checked to stand together at a point of every rung")
    }

    /// The same. Errs when values cannot stand together, which no point changes.
    pub(crate) fn try_seated(
        &self,
        rung: usize,
        point: &[f64],
        game: &dyn GameEntry,
    ) -> Result<Seated, Vec<KnobError>> {
        let modifiers = &self.rungs[rung].modifiers;
        let agent = |entrant: &Entrant, side: Side| {
            let knobs = sheet_of(game, &entrant.kind).map(|sheet| sheet.knobs.as_slice()).unwrap_or_default();
            modified(&entrant.given, modifiers.of(side), &self.free_of(side, point), knobs)
        };
        let players = self.rungs[rung].players.iter().map(|player| agent(&player.entrant, Side::Player));
        Ok(Seated {
            rules: modified(
                &self.ground.rules,
                &modifiers.rules,
                &self.free_of(Side::Rules, point),
                &game.sheet().rules,
            )?,
            opponent: agent(&self.opponent, Side::Opponent)?,
            players: players.collect::<Result<_, _>>()?,
        })
    }

    /// Returns the settings of a rung's players at a point.
    pub(crate) fn settings(&self, rung: usize, point: &[f64], game: &dyn GameEntry) -> Vec<Setting> {
        let seated = self.seated(rung, point, game);
        let seats = *game.sheet().seats.start();
        let players = self.rungs[rung].players.iter().zip(seated.players).enumerate();
        players
            .map(|(number, (player, knobs))| {
                let player = Casting::new(0, &player.entrant.kind, knobs);
                let others =
                    (1..seats).map(|place| Casting::new(place as u16, &self.opponent.kind, seated.opponent.clone()));
                Setting {
                    rules: seated.rules.clone(),
                    level: self.ground.level.clone(),
                    cast: std::iter::once(player).chain(others).collect(),
                    seating: self.ground.seating(seats),
                    study_seed: self.ground.seed,
                    pairing: number as u64,
                }
            })
            .collect()
    }

    /// A point from shares of the free knobs' ranges.
    pub(crate) fn point_at(&self, shares: &[f64]) -> Point {
        let each = self.free.iter().zip(shares);
        each.map(|(free, share)| {
            let (low, high) = free.bounds();
            free.held(low + share * (high - low))
        })
        .collect()
    }

    /// Returns a point as shares of the free knobs' ranges, each 0 to 1.
    pub(crate) fn shares_of(&self, point: &[f64]) -> Vec<f64> {
        let each = self.free.iter().zip(point);
        each.map(|(free, x)| {
            let (low, high) = free.bounds();
            if high > low { (x - low) / (high - low) } else { 0.0 }
        })
        .collect()
    }

    /// Whether it is of one number and one win rate a rung, so that a curve says all.
    pub fn follows_a_curve(&self) -> bool {
        let single = matches!(self.free.as_slice(), [free] if matches!(free.range, FreeRange::Number { .. }));
        let aim = |target: &Target| target.figure == "win_rate" && target.low() > 0.0 && target.high() < 1.0;
        single && self.rungs.iter().all(|rung| matches!(rung.targets.as_slice(), [target] if aim(target)))
    }

    /// A point in words: `skill 0.41, reaction 12`.
    pub fn point_text(&self, point: &[f64]) -> String {
        let each = self.free.iter().zip(point).map(|(free, x)| format!("{} {}", free.knob, free.value(*x)));
        each.collect::<Vec<_>>().join(", ")
    }

    /// Rounds a value to the digits that a person would write, within its knob's range.
    pub(crate) fn rounded(&self, point: &[f64]) -> Point {
        let each = self.free.iter().zip(point);
        each.map(|(free, x)| {
            let (low, high) = free.bounds();
            let width = high - low;
            if free.is_whole() || width <= 0.0 {
                return free.held(*x);
            }
            // A ten-thousandth of the range changes no figure that anybody could measure.
            let unit = 10f64.powf((width / 10_000.0).log10().floor());
            free.held(as_written((x / unit).round() * unit))
        })
        .collect()
    }
}

/// Rounds a number to twelve digits, which removes the traces of calculation.
pub(crate) fn as_written(x: f64) -> f64 {
    format!("{x:.11e}").parse().unwrap_or(x)
}

/// The sheet of an agent kind.
pub(crate) fn sheet_of<'a>(game: &'a dyn GameEntry, kind: &str) -> Option<&'a AgentSheet> {
    game.agents().iter().find(|sheet| sheet.name == kind)
}

/// A free number held within a knob's own range.
pub(crate) fn own_bounds(knob: &Knob, low: Option<f64>, high: Option<f64>) -> Option<(f64, f64)> {
    let (least, most) = knob.bounds()?;
    Some((held(knob, low.unwrap_or(least)), held(knob, high.unwrap_or(most))))
}
