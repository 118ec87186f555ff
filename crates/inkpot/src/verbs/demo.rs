//! `demo`: the full example: a house fencer that is too hard, the effect of its skill, a proved ladder of three rungs,
//! and further questions; then one page of it all.

use std::fmt::Write;
use std::path::{Path, PathBuf};

use inkpot_lab::{Finding, StudySummary};
use inkpot_ledger::Ledger;
use serde_json::json;

use super::new::{BRIEFS, write_briefs};
use super::replay;
use crate::args::DemoArgs;
use crate::briefs::ResolvedBrief;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::show::format::{count, percent, said};
use crate::telling::finding;
use crate::{briefs, hint, kinds, output, plots, report, study};

/// Matches that the quick demo's searches may play, per rung.
const QUICK_BUDGET: u64 = 600;

/// The list of all findings.
const LIST: &str = "found.md";
/// The folder of its briefs.
const FOLDER: &str = "briefs";

/// The caveat of a quick demo.
const QUICK: &str = "\nThis was the quick demo, with about a tenth of the matches: intervals are about three times as wide as in the full one,\nrungs may not be proved, and shapes may not be seen. Without --quick it takes one to two minutes.";

/// The games of the demo.
const GAMES: [&str; 4] = ["piste", "sowing", "berths", "regatta"];

/// The study whose extremes by a measure are to be seen, and that measure.
const SEEN: (&str, &str) = ("how-hard", "longest_lull_s");

/// Matches per pairing or point, of a tuning those that prove a rung, of an evolution those of each repetition, of a
/// training its steps: in full, and quick.
const MATCHES: [(&str, u64, u64); 17] = [
    ("how-hard.toml", 20_000, 1000),
    ("skill.toml", 4000, 300),
    ("ladder.toml", 12_000, 1000),
    ("crowd.toml", 4000, 600),
    ("calm.toml", 8000, 600),
    ("pits.toml", 8000, 600),
    ("birds.toml", 3000, 150),
    ("better.toml", 20_000, 200),
    ("nerves.toml", 1000, 40),
    ("grades.toml", 1000, 60),
    ("slips.toml", 2000, 200),
    ("field.toml", 100, 10),
    ("windward.toml", 16_000, 2_000),
    ("styles.toml", 20_000, 2_000),
    ("learn.toml", 120_000, 10_000),
    ("moor.toml", 60_000, 3_000),
    ("trained.toml", 1_000, 60),
];

/// A brief that uses the result of an earlier study of the demo.
const TRAINED: (&str, &str) = ("trained.toml", include_str!("../../briefs/trained.toml"));

pub(super) fn run(args: &DemoArgs, desk: &Desk) -> Result<(), Failure> {
    let (out, quick) = (args.out.as_deref(), args.quick);
    if let Some(game) = GAMES.iter().find(|game| desk.registry.game(game).is_none()) {
        let new = hint::command(["new", "DIR"]);
        return Err(Failure::wrong(
            format!("the demo plays the house games, and this program has no `{game}`"),
            format!("{new} makes a folder with a brief for each of its games"),
        ));
    }
    let folder = match out {
        Some(folder) => folder.to_path_buf(),
        None => free_folder(),
    };
    write_briefs(&folder)?;
    output::write(&folder.join(FOLDER).join(TRAINED.0), TRAINED.1)?;
    hint::use_ledger(&folder.join("ledger"));
    let demo = Desk { ledger: Ledger::at(&folder.join("ledger")), registry: desk.registry.clone(), ..*desk };
    let mut found = Vec::new();
    let mut files = Vec::new();
    for (name, full, few) in MATCHES {
        let Some((_, text)) = BRIEFS.iter().chain([&TRAINED]).find(|(brief, _)| *brief == name) else { continue };
        let text = with_matches(text, if quick { few } else { full });
        let text = if quick { with_key(&text, "budget", QUICK_BUDGET) } else { text };
        let stem = name.trim_end_matches(".toml");
        let parsed = briefs::read_named(&text, &folder.join(FOLDER).join(name), &demo)?;
        let outline = match &parsed {
            ResolvedBrief::Study(plan) => format!("{} matches", count(plan.total_matches())),
            ResolvedBrief::Search(search) => kinds::searches(search).outline(),
        };
        desk.say(format!("{name}: {outline}"));
        let (stored, summary) = study::make_asked(&parsed, &text, Some(stem), &demo)?;
        files.extend(plots::draw_all(&plots::gallery(&stored, &summary, &[], &demo)?, &stored)?);
        found.push(summary);
    }
    let names: Vec<String> = found.iter().map(|summary| summary.study.clone()).collect();
    let page = folder.join("report.html");
    let html = report::page(&names, &demo)?.html().map_err(Failure::Failed)?;
    output::write(&page, html)?;
    let matches = folder.join("matches.html");
    output::write(&matches, replay::page_by(SEEN.0, SEEN.1, &demo)?)?;
    if desk.json {
        desk.print_json(
            &json!({ "folder": folder, "studies": found, "files": files, "report": page, "matches": matches }),
        );
        return Ok(());
    }
    output::write(&folder.join(LIST), list(&found, &files, &folder))?;
    desk.print(takeaways(&found, [&page, &matches], &folder));
    if quick {
        desk.print(QUICK);
    }
    Ok(())
}

/// Writes a designer's takeaways: the page, the findings on the house fencer, and the next commands.
fn takeaways(found: &[StudySummary], [page, matches]: [&Path; 2], folder: &Path) -> String {
    let line = |study: &str, tell: fn(&StudySummary) -> String| {
        found.iter().find(|summary| summary.study == study).map(tell).unwrap_or_default()
    };
    let (list, brief) = (folder.join(LIST), folder.join("briefs/how-hard.toml"));
    [
        format!("Open {}: all of it on one page.", page.display()),
        format!(
            "See {}: the matches with the shortest, the median and the longest lull, side by side.",
            matches.display()
        ),
        format!("How hard it is: {}", line("how-hard", finding)),
        format!("What turns it: {}", line("skill", |skill| format!("{} {}", span(skill), finding(skill)))),
        format!("What suits whom: {}", line("ladder", finding)),
        format!("Who is left out: {}", line("crowd", crowd)),
        format!(
            "Next: {} tells of all {} studies and where their files are; change a number in {}, and {} it.",
            list.display(),
            found.len(),
            brief.display(),
            hint::command(["run"])
        ),
    ]
    .join("\n")
}

/// Writes the finding of every study, with its notes and figures.
fn list(found: &[StudySummary], files: &[PathBuf], folder: &Path) -> String {
    let mut text = format!("# What the demo found\n\n{}\n\n# Its figures\n\n", sentences(found));
    for path in files.iter().filter(|path| path.extension().is_some_and(|ending| ending == "png")) {
        let path = path.strip_prefix(folder).unwrap_or(path);
        let _ = writeln!(text, "- {}", path.display());
    }
    text
}

/// Writes the studies' findings.
fn sentences(found: &[StudySummary]) -> String {
    let mut lines = Vec::new();
    for summary in found {
        lines.push(format!("## {}\n", summary.study));
        let line = match summary.study.as_str() {
            "how-hard" => format!("How hard is the house fencer for a newcomer? {}", how_hard(summary)),
            "skill" => format!("What does its skill do? {} {}", span(summary), finding(summary)),
            "ladder" => format!("Which skill suits whom? {}", rungs(summary)),
            "crowd" => format!("And from player to player? {}", crowd(summary)),
            "calm" => format!("Fair, calm and not too short, by three knobs: {}", rungs(summary)),
            "pits" => format!("A ladder at the board game, by three knobs: {}", rungs(summary)),
            "birds" => format!("Which bird is strongest? {}", birds(summary)),
            "better" => format!("Is a fencer that reacts two ticks sooner really better? {}", finding(summary)),
            "field" => format!("Sixty grades of looking ahead and slipping, in few matches: {}", field(summary)),
            "grades" => format!("Opponents in grades at the board game: {}", grades(summary)),
            "windward" => format!("Who sails round a mole to a mark upwind? {}", finding(summary)),
            "styles" => format!("How many ways of fencing are there? {}", styles(summary)),
            "learn" => format!("Can a boat learn by reward to sail waters that it never met? {}", finding(summary)),
            "moor" => format!("Does a table that plays both sides learn to make no mistake? {}", finding(summary)),
            "trained" => format!("How strong is that table by how long it was trained? {}", finding(summary)),
            "slips" => format!("How often must a plover slip to be even with the greedy player? {}", finding(summary)),
            _ => format!("Reaction and aggression together, against a regular: {}", finding(summary)),
        };
        lines.push(line + "\n");
        lines.extend(summary.notes.iter().map(|note| format!("- note: {note}\n")));
    }
    lines.join("\n").trim_end().to_string()
}

fn how_hard(summary: &StudySummary) -> String {
    let guest = &summary.entrants[0];
    let wins = guest.win_rate.map(|win_rate| said(&win_rate)).unwrap_or_default();
    let measure = |name: &str| guest.measures.get(name).map(|m| format!("{:.1}", m.value)).unwrap_or_default();
    let house =
        summary.entrants[1].measures.get("reversals_per_s").map(|m| format!("{:.2}", m.value)).unwrap_or_default();
    format!(
        "At skill 0.6 a newcomer takes {wins} of {} matches; a match lasts {} s, the longest lull {} s, and the house \
         fencer changes direction {house} times a second.",
        count(summary.matches),
        measure("length_s"),
        measure("longest_lull_s"),
    )
}

/// Lists the rungs with their values and proofs.
fn rungs(summary: &StudySummary) -> String {
    let proved: Vec<String> =
        crate::report::found(summary).into_iter().filter(|text| text.starts_with("On ")).collect();
    format!("{}\n  {}", finding(summary), proved.join("\n  "))
}

/// Writes the differences between guests.
fn crowd(summary: &StudySummary) -> String {
    let guest = summary.people.iter().find(|person| person.name == "guest");
    guest.map(crate::show::people::sentence).unwrap_or_default()
}

fn span(summary: &StudySummary) -> String {
    let rates: Vec<_> = summary.points().iter().filter_map(|point| point.win_rate).collect();
    match (rates.first(), rates.last()) {
        (Some(first), Some(last)) => {
            format!("From skill 0 to 1 the newcomer falls from {} to {}.", percent(first.value), percent(last.value))
        }
        _ => String::new(),
    }
}

fn birds(summary: &StudySummary) -> String {
    let clear = summary.pairings.iter().filter(|pairing| pairing.win_rate.is_some_and(|rate| !rate.holds(0.5))).count();
    let circles = summary.tournament().map_or(0, |tournament| tournament.circles.count);
    let circles = match circles {
        0 => "strength does not go round in circles".to_string(),
        _ => format!("strength goes round in circles ({circles})"),
    };
    format!("{} {clear} of {} pairings are separable, and {circles}.", finding(summary), summary.pairings.len())
}

/// Describes a Swiss field: the leader, and the distance between its ends.
fn field(summary: &StudySummary) -> String {
    let rated = || summary.ratings().iter().filter_map(|entrant| Some((entrant, entrant.rating?)));
    match (rated().next(), rated().next_back()) {
        (Some((first, best)), Some((last, worst))) => format!(
            "by {} pairings instead of {}, {} is rated {:.0} ({:.0} to {:.0}) above the greedy player, and {} {:.0} ({:.0} to {:.0}).",
            count(summary.pairings.len() as u64),
            count((summary.ratings().len() * (summary.ratings().len() - 1) / 2) as u64),
            first.name,
            best.value,
            best.low,
            best.high,
            last.name,
            worst.value,
            worst.low,
            worst.high
        ),
        _ => finding(summary),
    }
}

/// The ladder from the weakest up, and whether its rungs are clear of each other.
fn grades(summary: &StudySummary) -> String {
    let mut ranked: Vec<_> = summary.entrants.iter().filter_map(|entrant| Some((entrant, entrant.win_rate?))).collect();
    ranked.sort_by(|a, b| a.1.value.total_cmp(&b.1.value));
    let rungs: Vec<String> =
        ranked.iter().map(|(entrant, rate)| format!("{} {}", entrant.name, percent(rate.value))).collect();
    let apart = ranked.windows(2).all(|pair| pair[0].1.high < pair[1].1.low);
    let all = if apart { "every rung is clear of the next" } else { "not every rung is clear of the next yet" };
    format!("over all they played, {}; {all}.", rungs.join(", "))
}

/// The brief with another number of matches, of a tuning of those that prove a rung, of a training with other steps.
fn with_matches(text: &str, matches: u64) -> String {
    let trains = text.lines().any(|line| line.starts_with("steps ="));
    let keys: &[&str] = if trains { &["steps"] } else { &["matches", "proof"] };
    keys.iter().fold(text.to_string(), |text, key| with_key(&text, key, matches))
}

/// Writes the filled share of a map.
fn styles(summary: &StudySummary) -> String {
    let map = match &summary.finding {
        Finding::Evolve(found) | Finding::Train(found) => found.map.as_ref(),
        _ => None,
    };
    map.map_or_else(String::new, |map| {
        let [across, up] = &map.measures;
        format!(
            "{} of {} niches over `{}` and `{}` are filled, each by a fencer of its own.",
            map.niches.len(),
            across.count * up.count,
            across.measure,
            up.measure
        )
    })
}

/// The brief with another value of a key that it has.
fn with_key(text: &str, key: &str, value: u64) -> String {
    let start = format!("{key} =");
    let line = |line: &str| if line.starts_with(&start) { format!("{start} {value}") } else { line.to_string() };
    text.lines().map(line).collect::<Vec<_>>().join("\n") + "\n"
}

/// `demo`, or `demo-2`, ... where that is taken.
fn free_folder() -> PathBuf {
    let numbered = (2..).map(|number| PathBuf::from(format!("demo-{number}")));
    std::iter::once(PathBuf::from("demo")).chain(numbered).find(|folder| !folder.exists()).unwrap_or_default()
}
