//! `play`: a person in a seat. Hand-played matches are a study: they count, and play again exactly.

use std::time::SystemTime;

use inkpot_core::{Casting, GameEntry, HAND, HeldMatch, Knobs, Outcome, Rows, Setting};
use inkpot_lab::{StudyPlan, StudySummary};
use inkpot_ledger::{Lock, Manifest, Naming, PartWriter, Study};

use super::{OneMatch, matches, watch};
use crate::args::PlayArgs;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::live::keys::Bindings;
use crate::live::{About, Hand, Left, Live};
use crate::show::format::{counted, ending};
use crate::stored::{BRIEF, RESOLVED, machine};
use crate::{briefs, hint, playing, study, terminal};

pub(super) fn run(args: &PlayArgs, desk: &Desk) -> Result<(), Failure> {
    let game = desk.game(&args.game)?;
    let seats = args.opponents.len() + 1;
    if args.seat >= seats {
        return Err(watch::no_seat(args.seat, seats));
    }
    if game.sheet().ticks_per_second.is_none() && args.pace.is_some() {
        return Err(watch::no_pace(&args.game));
    }
    let bindings = Bindings::of(game.controls(), args.keys.as_deref())?;
    let plan = planned(args, desk)?;
    let hints = args.hints.as_ref().map(|agent| adviser(agent, args, desk)).transpose()?;
    let help = format!("{} plays agents against each other", hint::command(["match"]));
    watch::terminal("play", &help)?;
    // A name that is taken is told before anything is played.
    drop(desk.ledger.begin(naming(args, &numbered(&plan)))?);
    let mut stored: Option<Stored> = None;
    let (mut wins, mut lost, mut stopped) = (vec![0; seats], None, false);
    for number in 0..args.best_of {
        let held = opened(&plan, hints.as_ref(), number, desk)?;
        let is_hand = |seat: &usize| usize::from(held.entrant(*seat)) == args.seat;
        let seat = (0..seats).find(is_hand).unwrap_or(args.seat);
        let hand = Hand::new(seat, bindings.clone(), hints.is_some());
        let about = about(&plan, held.as_ref(), number, args, game, desk.color);
        let mut live = Live::new(held, about, Some(hand), args.pace.unwrap_or(1.0));
        let left = live.run(Desk::halt_on_interrupt());
        terminal::leave();
        // What was played is stored, whatever becomes of the terminal.
        let left = left.unwrap_or_else(|error| {
            lost = Some(error);
            Left::Stopped
        });
        if live.is_begun() {
            let mut rows = Rows::new(game.sheet().measures.len());
            live.into_held().abandon(&mut rows);
            for row in rows.rows.iter().filter(|row| row.outcome == Outcome::Win) {
                wins[usize::from(row.entrant)] += 1;
            }
            let standing = standing(&rows, &plan, number, args.best_of);
            match &mut stored {
                Some(stored) => stored.rows(number, &mut rows)?,
                None => stored = Some(Stored::first(&plan, args, &mut rows, desk)?),
            }
            if !desk.json {
                desk.print(standing);
            }
        }
        let decided = wins.iter().any(|count| 2 * count > args.best_of);
        stopped = left == Left::Stopped;
        if left != Left::Over || decided {
            break;
        }
    }
    let Some(mut stored) = stored else {
        let nothing = "nothing was played, and nothing is stored";
        if stopped && lost.is_none() {
            return Err(Failure::Interrupted(format!("interrupted: {nothing}")));
        }
        desk.say(nothing);
        return lost.map_or(Ok(()), |error| Err(watch::drawn(&error)));
    };
    let summary: StudySummary = playing::go_on(&stored.study, &mut stored.manifest, &plan, desk)?;
    if desk.json {
        study::print(&stored.study, &summary, desk)?;
    } else {
        desk.print(closing(&summary, args.seat, &stored.study));
    }
    match lost {
        Some(error) => Err(watch::drawn(&error)),
        None if stopped => Err(Failure::Interrupted("interrupted; finished matches are stored".into())),
        None => Ok(()),
    }
}

/// Writes the person's result, and the next commands.
fn closing(summary: &StudySummary, seat: usize, study: &Study) -> String {
    let entrant = &summary.entrants[seat];
    let (name, first) = (study.name(), format!("{}/0", study.name()));
    let score = if summary.matches > 1 && entrant.matches > 0 {
        format!("{}: {} won, {} drawn, {} lost. ", entrant.name, entrant.wins, entrant.draws, entrant.losses)
    } else {
        String::new()
    };
    let (replay, show) = (hint::on_ledger(["replay", &first]), hint::on_ledger(["ledger", "show", name]));
    format!("{score}In {}; {replay} shows it again, {show} has its measures.", study.folder().display())
}

/// Writes a match's result.
fn standing(rows: &Rows, plan: &StudyPlan, number: u64, of: u64) -> String {
    let names: Vec<&str> = rows.rows.iter().map(|row| plan.entrants[usize::from(row.entrant)].name.as_str()).collect();
    let which = if of > 1 { format!("Match {} of {of}: ", number + 1) } else { String::new() };
    format!("{which}{}", ending(&rows.rows, &names))
}

/// Builds the plan: the person in the requested seat, the opponents in the others.
fn planned(args: &PlayArgs, desk: &Desk) -> Result<StudyPlan, Failure> {
    let game = desk.game(&args.game)?;
    // Somebody has to stand in until everything else is checked.
    let filler = game.agents().first().map(|sheet| sheet.name.clone()).unwrap_or_default();
    let OneMatch { mut plan, .. } = resolved(&format!("{}={filler}", args.label), args, desk)?;
    let person = &mut plan.entrants[args.seat];
    (person.agent, person.kind) = (HAND.into(), HAND.into());
    (person.given, person.knobs) = (Knobs::default(), Knobs::default());
    plan.ground.seats_kept = true;
    if args.setting.seed.is_none() {
        plan.ground.seed = another_seed();
    }
    plan.matches = args.best_of;
    plan.blocks = args.best_of;
    Ok(plan)
}

/// A seed that is another one each time: nobody wants to play the same match again by hand.
fn another_seed() -> u64 {
    let now = SystemTime::now().duration_since(SystemTime::UNIX_EPOCH).unwrap_or_default();
    now.as_nanos() as u64 % 1_000_000_000
}

/// A match of this agent and the opponents.
fn resolved(typed: &str, args: &PlayArgs, desk: &Desk) -> Result<OneMatch, Failure> {
    let mut entrants = args.opponents.clone();
    entrants.insert(args.seat, typed.to_string());
    matches::fresh(&args.game, &entrants, &args.setting, desk)
}

/// Builds the adviser of the person.
fn adviser(agent: &str, args: &PlayArgs, desk: &Desk) -> Result<Casting, Failure> {
    let OneMatch { plan, .. } = resolved(&format!("adviser={agent}"), args, desk)?;
    let entrant = &plan.entrants[args.seat];
    Ok(Casting::new(args.seat as u16, &entrant.kind, entrant.knobs.clone()))
}

/// Opens the match of this number; an adviser sits in the person's seat and is overruled.
fn opened(plan: &StudyPlan, hints: Option<&Casting>, number: u64, desk: &Desk) -> Result<Box<dyn HeldMatch>, Failure> {
    let mut setting: Setting = plan.setting(&plan.cells[0]);
    if let Some(adviser) = hints
        && let Some(member) = setting.cast.iter_mut().find(|member| member.entrant == adviser.entrant)
    {
        *member = Casting { recorded: true, ..adviser.clone() };
    }
    let stage = desk.game(&plan.ground.game)?.stage(&setting);
    Ok(stage.map_err(|error| Failure::Failed(error.to_string()))?.open(plan.spot(number)))
}

fn about(
    plan: &StudyPlan,
    held: &dyn HeldMatch,
    number: u64,
    args: &PlayArgs,
    game: &dyn GameEntry,
    color: bool,
) -> About {
    let of = args.best_of;
    let which = if of > 1 { format!(", match {} of {of}", number + 1) } else { String::new() };
    let after = if number + 1 < of { "Enter continues, q leaves." } else { "Enter leaves." };
    About {
        title: format!("{} on {}{which}", plan.ground.game, plan.ground.level),
        names: watch::names(plan, held),
        rate: game.sheet().ticks_per_second,
        after: format!("The match is over. {after}"),
        color,
    }
}

fn numbered(plan: &StudyPlan) -> String {
    format!("play-{}", plan.ground.game)
}

fn naming<'a>(args: &'a PlayArgs, numbered: &'a str) -> Naming<'a> {
    args.name.as_deref().map_or(Naming::Numbered(numbered), Naming::Named)
}

/// The study of the matches so far: complete after each match.
struct Stored {
    study: Study,
    manifest: Manifest,
    measures: Vec<String>,
    _lock: Lock,
}

impl Stored {
    fn first(plan: &StudyPlan, args: &PlayArgs, rows: &mut Rows, desk: &Desk) -> Result<Self, Failure> {
        let game = desk.game(&plan.ground.game)?;
        let numbered = numbered(plan);
        let begun = desk.ledger.begin(naming(args, &numbered))?;
        begun.study().write(BRIEF, brief(plan, game).as_bytes())?;
        begun.study().write(RESOLVED, brief(plan, game).as_bytes())?;
        playing::store_plan(begun.study(), plan)?;
        let manifest = Manifest::begin(plan.kind().name(), plan.ground.game.name(), plan.ground.seed, 1, machine(desk));
        let (study, manifest, lock) = begun.settle(manifest)?;
        let mut play = Self { study, manifest, measures: game.measure_names(), _lock: lock };
        play.rows(0, rows)?;
        Ok(play)
    }

    /// One more match. The manifest says how many there are; the plan, which allows for all of them, stays as it was, so
    /// that a kill at any step leaves a sound study.
    fn rows(&mut self, block: u64, rows: &mut Rows) -> Result<(), Failure> {
        self.manifest.blocks = block + 1;
        let mut writer = PartWriter::new(&self.study, &self.measures, &mut self.manifest);
        writer.take(block..block + 1, rows)?;
        Ok(writer.flush()?)
    }
}

/// Writes a readable brief: it cannot play by hand again.
fn brief(plan: &StudyPlan, game: &dyn GameEntry) -> String {
    let most = if plan.matches > 1 { "Up to " } else { "" };
    let matches = counted(plan.matches, "match", "matches");
    let text = briefs::write(plan, game);
    format!("# {most}{matches} of a person. The choices are stored with the rows; no brief replays them.\n{text}")
}
