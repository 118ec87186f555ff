//! `replay`: matches as one page that can be played, stepped through and looked into.

use std::path::PathBuf;

use inkpot_core::{GameEntry, Rows, Thoughts, Weighed};
use inkpot_figures::{About, AboutSeat, End, Film, Frame, FrameSeat, Mind, MindOption, ReplayPage};
use inkpot_lab::{SeatShot, Shot, StudyPlan, film};
use serde_json::{Value, json};

use super::{OneMatch, matches, stored_match};
use crate::args::{ReplayArgs, SettingArgs};
use crate::by_measure::{Found, by_measure};
use crate::desk::Desk;
use crate::failure::Failure;
use crate::show::asked::changed;
use crate::show::format::{counted, ending, plain};
use crate::show::thoughts::{action, line, says, signed, spent, value};
use crate::{hint, output, scenes};

/// Matches on one page at most.
const MOST: usize = 12;

/// A match that goes onto a page.
struct Picked {
    one: OneMatch,
    title: String,
    /// The command that plays it again.
    again: Option<String>,
}

pub(super) fn run(args: &ReplayArgs, desk: &Desk) -> Result<(), Failure> {
    let (picked, path) = picked(args, desk)?;
    let html = page(&picked, desk)?;
    output::write(&path, &html)?;
    if desk.json {
        desk.print_json(&json!({ "file": path, "bytes": html.len(), "matches": picked.len() }));
    } else {
        desk.print(path.display().to_string());
    }
    Ok(())
}

/// The page of the lowest, the median and the highest match of a study by a measure.
pub(crate) fn page_by(study: &str, measure: &str, desk: &Desk) -> Result<String, Failure> {
    page(&by(study, measure, &[], desk)?.0, desk)
}

/// The page of these matches.
fn page(picked: &[Picked], desk: &Desk) -> Result<String, Failure> {
    let films = picked.iter().map(|picked_match| filmed(picked_match, desk)).collect::<Result<_, _>>()?;
    let game = &picked[0].one.plan.ground.game;
    let title = match picked {
        [only] => only.title.clone(),
        all => format!("{} of {game}", counted(all.len() as u64, "match", "matches")),
    };
    let page = ReplayPage {
        title,
        subtitle: "Played again decision by decision, with what each seat perceived and weighed.".into(),
        made_by: format!("Made by Inkpot {}.", env!("CARGO_PKG_VERSION")),
        films,
    };
    page.html().map_err(Failure::Failed)
}

/// The matches, and where their page goes if nothing is said.
fn picked(args: &ReplayArgs, desk: &Desk) -> Result<(Vec<Picked>, PathBuf), Failure> {
    let first = &args.what[0];
    let stored = args.by.is_some() || is_match(first);
    if stored {
        stored_as_it_was(&args.setting)?;
    }
    let (picked, path) = if let Some(measure) = &args.by {
        by(first, measure, &args.what[1..], desk)?
    } else if stored {
        let mut all = Vec::new();
        for which in &args.what {
            all.push(of_study(which, stored_match(which, desk)?));
        }
        let (study, number) = first.rsplit_once('/').unwrap_or((first, "0"));
        let more = match args.what.len() - 1 {
            0 => String::new(),
            more => format!("-and-{more}-more"),
        };
        (all, desk.ledger.open(study)?.folder().join(format!("replays/{number}{more}.html")))
    } else if args.what.len() == 1 && desk.ledger.open(first).is_ok() {
        let (number, by) =
            (hint::on_ledger(["replay", &format!("{first}/0")]), hint::on_ledger(["replay", first, "--by", "MEASURE"]));
        return Err(Failure::wrong(
            format!("`{first}` is a study of many matches"),
            format!("name one of them, as in {number}, or let {by} choose the lowest, the median and the highest"),
        ));
    } else {
        let chosen_match = matches::fresh(first, &args.what[1..], &args.setting, desk)?;
        let ground = &chosen_match.plan.ground;
        let title = format!("{}: {}, seed {}", ground.game, against(&chosen_match), ground.seed);
        let path = format!("replay-{}.html", ground.game).into();
        (vec![Picked { one: chosen_match, title, again: None }], path)
    };
    if picked.len() > MOST {
        return Err(Failure::wrong(
            format!("{} matches are too many for one page", picked.len()),
            format!("name at most {MOST}"),
        ));
    }
    if let Some(other) = picked.iter().find(|other| other.one.plan.ground.game != picked[0].one.plan.ground.game) {
        return Err(Failure::wrong(
            format!(
                "one page is of one game, and these are of `{}` and `{}`",
                picked[0].one.plan.ground.game, other.one.plan.ground.game
            ),
            "make a page of each",
        ));
    }
    Ok((picked, args.out.clone().unwrap_or(path)))
}

/// Errs where options are given that say how a match is to be played, and it is stored.
pub(super) fn stored_as_it_was(setting: &SettingArgs) -> Result<(), Failure> {
    let set = [
        ("--seed", setting.seed.is_some()),
        ("--rules", setting.rules.is_some()),
        ("--level", setting.level.is_some()),
    ];
    match set.iter().find(|(_, stated)| *stated) {
        None => Ok(()),
        Some((option, _)) => Err(Failure::wrong(
            format!("`{option}` does not apply to a stored match, which is played again as it was"),
            "leave it out, or name a game and who plays",
        )),
    }
}

/// Whether a text names a stored match.
pub(super) fn is_match(text: &str) -> bool {
    text.rsplit_once('/').is_some_and(|(_, number)| number.parse::<u64>().is_ok())
}

fn of_study(which: &str, chosen_match: OneMatch) -> Picked {
    let title = format!("{which}: {}", against(&chosen_match));
    let again = Some(hint::bare_on_ledger(["match", "--again", which]));
    Picked { one: chosen_match, title, again }
}

/// The lowest, the median and the highest match of a study by a measure.
fn by(study: &str, measure: &str, rest: &[String], desk: &Desk) -> Result<(Vec<Picked>, PathBuf), Failure> {
    if let Some(more) = rest.first() {
        return Err(Failure::wrong(
            format!("`--by` takes one study, and `{more}` is one more"),
            "name a study alone, or stored matches without `--by`",
        ));
    }
    let stored = desk.ledger.open(study)?;
    let mut all: Vec<Found> = Vec::new();
    let (_, measure) = by_measure(&stored, measure, desk, &mut |found| all.push(found))?;
    all.sort_by(|a, b| a.value.total_cmp(&b.value).then(a.match_index.cmp(&b.match_index)));
    let places = [("lowest", 0), ("median", all.len() / 2), ("highest", all.len().saturating_sub(1))];
    let mut picked: Vec<Picked> = Vec::new();
    for (name, place) in places {
        let Some(found) = all.get(place) else { continue };
        if picked.iter().any(|other| other.one.spot.match_index == found.match_index) {
            continue;
        }
        let which = format!("{study}/{}", found.match_index);
        let chosen = of_study(&which, stored_match(&which, desk)?);
        let unit = if measure.unit.is_empty() { String::new() } else { format!(" {}", measure.unit) };
        let label = measure.label.to_lowercase();
        let value = plain((found.value * 100.0).round() / 100.0);
        let title = format!("{}; {label} {value}{unit}, the {name}", chosen.title);
        picked.push(Picked { title, ..chosen });
    }
    if picked.is_empty() {
        return Err(Failure::wrong(
            format!("no match of `{study}` has a value of `{}`", measure.name),
            "choose another measure",
        ));
    }
    let path = stored.folder().join(format!("replays/by-{}.html", measure.name));
    Ok((picked, path))
}

/// Names the entrants in order of seat.
fn against(chosen_match: &OneMatch) -> String {
    let seated = chosen_match.plan.seated(chosen_match.spot);
    let names: Vec<&str> =
        seated.into_iter().map(|entrant| chosen_match.plan.entrants[entrant].name.as_str()).collect();
    names.join(" against ")
}

/// Plays a match again for a page.
fn filmed(picked: &Picked, desk: &Desk) -> Result<Film, Failure> {
    let plan = &picked.one.plan;
    let game = desk.game(&plan.ground.game)?;
    let held = picked.one.open(desk)?;
    if held.scene().is_none() && held.note().is_none() {
        return Err(Failure::wrong(
            format!("`{}` draws no scene of its states and writes no positions", plan.ground.game),
            format!("{} tells the match as text", hint::command(["match"])),
        ));
    }
    let seats = (0..held.seats()).map(|seat| seat_about(plan, usize::from(held.entrant(seat)), game));
    let rate = game.sheet().ticks_per_second;
    let mut reel = Film::new(About {
        title: picked.title.clone(),
        facts: facts(picked, game),
        per_second: rate,
        seats: seats.collect(),
    });
    let mut rows = Rows::new(game.sheet().measures.len());
    let mut scored = vec![0];
    let mut before: Option<Vec<f64>> = None;
    let every = rate.map_or(1, |rate| rate.round() as u64);
    let mut last = 0;
    let mut take = |shot: &Shot| {
        if before.as_ref().is_some_and(|before| *before != shot.scores) {
            scored.push(shot.tick);
        }
        before = Some(shot.scores.clone());
        last = shot.tick;
        reel.take(&frame(shot));
    };
    film(held, every, &mut take, &mut rows);
    picked.one.compare(&rows, desk);
    scored.push(last);
    let lull = scored.windows(2).map(|pair| (pair[0], pair[1])).max_by_key(|(from, to)| (to - from, u64::MAX - from));
    let names: Vec<&str> = rows.rows.iter().map(|row| plan.entrants[usize::from(row.entrant)].name.as_str()).collect();
    reel.close(End { sentence: ending(&rows.rows, &names), lull: lull.filter(|_| rate.is_some() && scored.len() > 2) });
    Ok(reel)
}

fn seat_about(plan: &StudyPlan, entrant: usize, game: &dyn GameEntry) -> AboutSeat {
    let entrant = &plan.entrants[entrant];
    let stated: Vec<String> = entrant.given.iter().map(|(knob, value)| format!("{knob}={value}")).collect();
    let agent =
        if stated.is_empty() { entrant.kind.clone() } else { format!("{}: {}", entrant.kind, stated.join(", ")) };
    AboutSeat {
        name: entrant.name.clone(),
        agent,
        measures: game.sheet().measures.iter().map(inkpot_core::Measure::titled).collect(),
    }
}

fn facts(picked: &Picked, game: &dyn GameEntry) -> Vec<(String, String)> {
    let ground = &picked.one.plan.ground;
    let mut facts = vec![("Level".to_string(), ground.level.to_string()), ("Seed".into(), ground.seed.to_string())];
    let rules = changed(&ground.rules, &game.sheet().rules);
    if !rules.is_empty() {
        facts.push(("Rules".into(), rules));
    }
    if let Some(again) = &picked.again {
        facts.push(("Play it again".into(), again.clone()));
    }
    facts
}

fn frame(shot: &Shot) -> Frame {
    let scene = shot.scene.clone().unwrap_or_default();
    Frame {
        tick: shot.tick,
        window: [scene.low, scene.high],
        shapes: scenes::drawn(&scene.shapes),
        position: shot.note.clone(),
        scores: shot.scores.clone(),
        scored_by: shot.scored_by.clone(),
        seats: shot.seats.iter().map(seat_frame).collect(),
    }
}

fn seat_frame(seat: &SeatShot) -> FrameSeat {
    FrameSeat {
        sight: scenes::drawn(&seat.perceived),
        place: seat.place,
        choice: seat.choice.as_ref().map(action),
        mind: seat
            .thoughts
            .as_ref()
            .filter(|thoughts| says(thoughts))
            .map(|thoughts| mind(thoughts, seat.choice.as_ref())),
        measures: seat.measures.clone(),
        faults: seat.faults,
    }
}

fn mind(thoughts: &Thoughts<Value>, choice: Option<&Value>) -> Mind {
    let option = |weighed: &Weighed<Value>| {
        let visits = weighed.visits.map(|visits| counted(visits, "visit", "visits"));
        let depth = weighed.depth.map(|depth| format!("{} ahead", counted(u64::from(depth), "turn", "turns")));
        MindOption {
            option: action(&weighed.option),
            value: value(weighed),
            tried: visits.into_iter().chain(depth).collect::<Vec<_>>().join(", "),
            line: line(&weighed.line),
            chosen: choice == Some(&weighed.option),
        }
    };
    let step = |step: &inkpot_core::Step<Value>| {
        let depth = counted(u64::from(step.depth), "turn", "turns");
        format!("{depth} ahead: {}, {}", action(&step.best), signed(step.value))
    };
    let nothing = thoughts.spent == inkpot_core::Spent::default();
    Mind {
        options: thoughts.options.iter().map(option).collect(),
        steps: thoughts.steps.iter().map(step).collect(),
        spent: if nothing { String::new() } else { spent(&thoughts.spent) },
    }
}
