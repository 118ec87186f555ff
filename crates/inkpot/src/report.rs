//! From stored studies to the report page: what was asked and found in words, the figures, the tables, the method.

use inkpot_core::{GameEntry, KnobRange, KnobValue, Knobs};
use inkpot_figures::{Page, PageFigure, PageTable, Rates, RatesRow, Section, TableCell, TableRow, Words};
use inkpot_lab::{Plan, Stored, StudyKind, Summary, compare_stored, find_agent, told_measures};
use inkpot_ledger::{Manifest, Study};
use inkpot_stats::Interval;

use crate::desk::Desk;
use crate::failure::Failure;
use crate::figures::{Gallery, estimate};
use crate::show::format::{count, counted, ends, figure, percent, plain};
use crate::show::summary::finding;
use crate::show::{self, tune};
use crate::study;

/// More rows than this are cut, and that is said.
const MOST_ROWS: usize = 200;

/// A study as it is stored.
struct Told {
    study: Study,
    manifest: Manifest,
    plan: Plan,
    summary: Summary,
}

impl Told {
    fn stored(&self, place: usize) -> Stored<'_> {
        Stored { study: &self.study, manifest: &self.manifest, plan: &self.plan, place }
    }
}

/// The page of these studies, several compared.
pub(crate) fn page(names: &[String], desk: &Desk) -> Result<Page, Failure> {
    let mut told = Vec::new();
    for name in names {
        let study = desk.ledger.open(name)?;
        let summary = study::stored_summary(&study)?;
        let (manifest, plan) = study::open(&study, desk)?;
        told.push(Told { study, manifest, plan, summary });
    }
    let mut sections = Vec::new();
    if told.len() > 1 {
        sections.push(together(&told, desk));
    }
    for own in &told {
        sections.push(section(own, desk)?);
    }
    let matches: u64 = told.iter().map(|own| own.summary.matches).sum();
    let title = match told.as_slice() {
        [only] => finding(&only.summary).trim_end_matches('.').to_string(),
        several => format!("{} studies: {}", several.len(), games(several)),
    };
    Ok(Page {
        title,
        subtitle: format!("{}; every figure with its interval", counted(matches, "match", "matches")),
        made_by: format!("Made by inkpot {} from what the ledger holds.", env!("CARGO_PKG_VERSION")),
        sections,
    })
}

fn games(told: &[Told]) -> String {
    let mut games: Vec<&str> = told.iter().map(|own| own.summary.game.as_str()).collect();
    games.sort_unstable();
    games.dedup();
    games.join(", ")
}

/// Letters, digits and dashes of a name.
fn id(name: &str) -> String {
    name.chars().map(|c| if c.is_ascii_alphanumeric() { c } else { '-' }).collect()
}

fn section(told: &Told, desk: &Desk) -> Result<Section, Failure> {
    let Told { study, manifest, plan, summary } = told;
    let game = desk.game(&summary.game)?;
    let gallery = Gallery::new(study, summary, &[], desk)?;
    let figures = gallery
        .drawings()?
        .iter()
        .map(|(name, drawing)| PageFigure::new(&format!("{} of {}", name.word(), study.name()), drawing))
        .collect();
    let mut warnings = summary.notes.clone();
    warnings.extend(show::costs::notes(plan, &manifest.decision_times));
    Ok(Section {
        id: id(study.name()),
        title: study.name().to_string(),
        warnings,
        asked: asked(plan, summary, game),
        found: found(summary),
        figures,
        tables: tables(summary, game),
        method: method(told),
        sources: sources(study),
    })
}

/// What was asked, as name and value; rules and knobs only where they are not the default.
fn asked(plan: &Plan, summary: &Summary, game: &dyn GameEntry) -> Vec<(String, String)> {
    let mut asked = vec![
        ("Kind".to_string(), plan.kind.name().to_string()),
        ("Game".into(), plan.game.clone()),
        ("Level".into(), plan.level.clone()),
        ("Matches".into(), format!("{} in {} blocks", count(summary.matches), count(summary.blocks))),
        ("Seed".into(), plan.seed.to_string()),
    ];
    if let Some(series) = plan.series {
        asked.push(("Series".into(), format!("{series} matches by the same people")));
    }
    let rules = changed(&plan.rules, &game.sheet().rules);
    if !rules.is_empty() {
        asked.push(("Rules".into(), rules));
    }
    if let Some(target) = plan.target {
        asked.push(("Target".into(), percent(target)));
    }
    for vary in &plan.vary {
        let values: Vec<String> = vary.values.iter().map(KnobValue::to_string).collect();
        let text = match values.as_slice() {
            [first, .., last] if values.len() > 6 => format!("{first} to {last}, {} values", values.len()),
            _ => values.join(", "),
        };
        asked.push((plan.vary_name(vary), text));
    }
    for entrant in plan.entrants.iter().take(12).filter(|_| plan.kind != StudyKind::Tune) {
        // What a preset sets is in its name.
        let knobs = find_agent(game, &entrant.agent).map(|(sheet, preset)| {
            let own = entrant.given.iter().filter(|(name, value)| preset.get(name) != Some(value));
            changed(&own.map(|(name, value)| (name.to_string(), value.clone())).collect(), &sheet.knobs)
        });
        let knobs = knobs.filter(|knobs| !knobs.is_empty()).map(|knobs| format!(" with {knobs}")).unwrap_or_default();
        asked.push((entrant.name.clone(), format!("{}{knobs}", entrant.agent)));
    }
    for rung in summary.tune.iter().flat_map(|told| &told.rungs) {
        let targets: Vec<String> =
            rung.targets.iter().map(|target| format!("{} {}", target.full_name(), tune::wanted(target))).collect();
        let players: Vec<&str> = rung.players.iter().map(|player| player.agent.as_str()).collect();
        asked.push((format!("Rung {}", rung.name), format!("{}: {}", players.join(" and "), targets.join("; "))));
    }
    asked
}

/// The values that are not the default.
fn changed(knobs: &Knobs, known: &[inkpot_core::Knob]) -> String {
    let other = knobs.iter().filter(|(name, value)| {
        known.iter().find(|knob| knob.name == *name).is_none_or(|knob| match &knob.range {
            KnobRange::Choice { default, .. } => value.to_string() != *default,
            _ => knob.default_value() != **value,
        })
    });
    other.map(|(name, value)| format!("{name} {value}")).collect::<Vec<_>>().join(", ")
}

/// What was found, in sentences.
pub(crate) fn found(summary: &Summary) -> Vec<String> {
    let mut sentences = vec![finding(summary)];
    for rung in summary.tune.iter().flat_map(|told| &told.rungs) {
        sentences.extend(rung.targets.iter().filter_map(|target| tune::target_sentence(rung, target)));
        sentences.extend(rung.misses.iter().map(|miss| format!("{}: {miss}.", rung.name)));
    }
    for people in &summary.people {
        sentences.push(show::people::sentence(people));
    }
    if let Some(first) = summary.first_seat {
        sentences.push(format!("The first seat takes {} ({}) of the points.", percent(first.value), ends(&first)));
    }
    sentences
}

fn rate_cells(rate: Option<Interval>) -> [TableCell; 2] {
    match rate {
        Some(rate) => [TableCell::number(percent(rate.value), rate.value), TableCell::text(ends(&rate))],
        None => [TableCell::text(""), TableCell::text("")],
    }
}

fn counts(wins: u64, draws: u64, losses: u64) -> [TableCell; 3] {
    [wins, draws, losses].map(|n| TableCell::number(count(n), n as f64))
}

fn columns(names: &[(&str, bool)]) -> Vec<(String, bool)> {
    names.iter().map(|(name, figure)| ((*name).to_string(), *figure)).collect()
}

fn table(caption: &str, names: &[(&str, bool)], mut rows: Vec<TableRow>) -> Option<PageTable> {
    let all = rows.len();
    rows.truncate(MOST_ROWS);
    let cut = if all > MOST_ROWS { format!(" (the first {MOST_ROWS} of {all})") } else { String::new() };
    (all > 0).then(|| PageTable { caption: format!("{caption}{cut}"), columns: columns(names), rows })
}

fn tables(summary: &Summary, game: &dyn GameEntry) -> Vec<PageTable> {
    let all = match summary.kind {
        StudyKind::Sweep => vec![points(summary), steps(summary)],
        StudyKind::Tune => vec![rungs(summary), targets(summary), people(summary)],
        _ => vec![entrants(summary), pairings(summary), people(summary), measures(summary, game)],
    };
    all.into_iter().flatten().collect()
}

fn entrants(summary: &Summary) -> Option<PageTable> {
    let rating = |name: &str| summary.ratings.iter().find(|own| own.name == name).and_then(|own| own.rating);
    let rows = summary.entrants.iter().map(|own| {
        let mut cells = vec![TableCell::text(own.name.clone()), TableCell::text(own.agent.clone())];
        cells.extend(rate_cells(own.win_rate));
        cells.extend(counts(own.wins, own.draws, own.losses));
        cells.push(own.score.map_or(TableCell::text(""), |score| TableCell::number(figure(&score), score.value)));
        if !summary.ratings.is_empty() {
            cells.push(rating(&own.name).map_or(TableCell::text(""), |rating| {
                TableCell::number(
                    format!("{:.0} ({:.0} to {:.0})", rating.value, rating.low, rating.high),
                    rating.value,
                )
            }));
        }
        TableRow { key: own.name.clone(), cells }
    });
    let mut names = vec![
        ("Entrant", false),
        ("Agent", false),
        ("Win rate", true),
        ("Interval", true),
        ("Won", true),
        ("Drawn", true),
        ("Lost", true),
        ("Score a match", true),
    ];
    if !summary.ratings.is_empty() {
        names.push(("Rating", true));
    }
    table("Entrants", &names, rows.collect())
}

fn pairings(summary: &Summary) -> Option<PageTable> {
    if summary.pairings.len() < 2 {
        return None;
    }
    let rows = summary.pairings.iter().map(|own| {
        let mut cells = vec![TableCell::text(own.a.clone()), TableCell::text(own.b.clone())];
        cells.extend(rate_cells(own.win_rate));
        cells.extend(counts(own.wins, own.draws, own.losses));
        TableRow { key: own.a.clone(), cells }
    });
    let names = [
        ("Entrant", false),
        ("Against", false),
        ("Win rate", true),
        ("Interval", true),
        ("Won", true),
        ("Drawn", true),
        ("Lost", true),
    ];
    table("Pairings", &names, rows.collect())
}

fn points(summary: &Summary) -> Option<PageTable> {
    let knobs: Vec<&String> = summary.points.first()?.knobs.keys().collect();
    let rows = summary.points.iter().map(|own| {
        let value = |knob: &&String| {
            let value = &own.knobs[*knob];
            value
                .number()
                .map_or_else(|| TableCell::text(value.to_string()), |x| TableCell::number(value.to_string(), x))
        };
        let mut cells: Vec<TableCell> = knobs.iter().map(value).collect();
        cells.extend(rate_cells(own.win_rate));
        cells.extend(counts(own.wins, own.draws, own.losses));
        let key = own.knobs.values().map(KnobValue::to_string).collect::<Vec<_>>().join(", ");
        TableRow { key, cells }
    });
    let mut names: Vec<(&str, bool)> = knobs.iter().map(|knob| (knob.as_str(), true)).collect();
    names.extend([("Win rate", true), ("Interval", true), ("Won", true), ("Drawn", true), ("Lost", true)]);
    table("Points", &names, rows.collect())
}

fn steps(summary: &Summary) -> Option<PageTable> {
    let rows = summary.differences.iter().map(|own| {
        let d = own.difference.difference;
        let points = |x: f64| format!("{:+.1}", 100.0 * x);
        TableRow {
            key: own.to.to_string(),
            cells: vec![
                TableCell::text(format!("{} to {}", own.from, own.to)),
                TableCell::number(points(d.value), d.value),
                TableCell::text(format!("{} to {}", points(d.low), points(d.high))),
                TableCell::text(if own.p_adjusted < 0.05 { "" } else { "not separable yet" }),
            ],
        }
    });
    let names = [("Step", false), ("Change, points", true), ("Interval", true), ("", false)];
    table("Steps between neighbouring points, paired by block", &names, rows.collect())
}

fn rungs(summary: &Summary) -> Option<PageTable> {
    let rows = summary.tune.iter().flat_map(|told| &told.rungs).flat_map(|rung| {
        rung.turned.iter().map(|own| {
            let value = own
                .value
                .number()
                .map_or_else(|| TableCell::text(own.value.to_string()), |x| TableCell::number(plain(x), x));
            let interval = own.low.zip(own.high).map(|(low, high)| format!("{}-{}", plain(low), plain(high)));
            TableRow {
                key: rung.name.clone(),
                cells: vec![
                    TableCell::text(rung.name.clone()),
                    TableCell::text(own.knob.clone()),
                    value,
                    TableCell::text(interval.unwrap_or_default()),
                    TableCell::text(own.binds.clone().unwrap_or_default()),
                ],
            }
        })
    });
    let names = [("Rung", false), ("Knob", false), ("Value", true), ("Interval", true), ("", false)];
    table("What was turned", &names, rows.collect())
}

fn targets(summary: &Summary) -> Option<PageTable> {
    let rows = summary.tune.iter().flat_map(|told| &told.rungs).flat_map(|rung| {
        rung.targets.iter().map(|own| {
            let seen = own.measured;
            let text = seen.map(|seen| {
                if own.is_rate() {
                    format!("{} ({})", percent(seen.value), ends(&seen.interval()))
                } else {
                    figure(&seen.interval())
                }
            });
            TableRow {
                key: rung.name.clone(),
                cells: vec![
                    TableCell::text(rung.name.clone()),
                    TableCell::text(own.full_name()),
                    TableCell::text(tune::wanted(own)),
                    TableCell::number(text.unwrap_or_default(), seen.map_or(f64::NAN, |seen| seen.value)),
                    TableCell::text(seen.map_or("", |seen| seen.verdict.word())),
                    TableCell::text(if own.hard { "" } else { "a wish" }),
                ],
            }
        })
    });
    let names = [
        ("Rung", false),
        ("Target", false),
        ("Wanted", false),
        ("Proved, with interval", true),
        ("", false),
        ("", false),
    ];
    table("What was wanted, and proved", &names, rows.collect())
}

fn people(summary: &Summary) -> Option<PageTable> {
    let rows = summary.people.iter().map(|own| TableRow {
        key: own.name.clone(),
        cells: show::people::cells(own)
            .into_iter()
            .enumerate()
            .map(
                |(place, (text, number))| {
                    if place < 2 { TableCell::text(text) } else { TableCell::number(text, number) }
                },
            )
            .collect(),
    });
    let names: Vec<(&str, bool)> = show::people::HEADINGS.iter().enumerate().map(|(i, name)| (*name, i > 1)).collect();
    table("From player to player", &names, rows.collect())
}

fn measures(summary: &Summary, game: &dyn GameEntry) -> Option<PageTable> {
    let rows = told_measures(game).into_iter().flat_map(|measure| {
        let title = measure.titled();
        summary.entrants.iter().filter_map(move |own| {
            let seen = own.measures.get(&measure.name)?;
            Some(TableRow {
                key: own.name.clone(),
                cells: vec![
                    TableCell::text(title.clone()),
                    TableCell::text(own.name.clone()),
                    TableCell::number(figure(seen), seen.value),
                ],
            })
        })
    });
    let names = [("Measure", false), ("Entrant", false), ("Mean and interval", true)];
    table("Measures", &names, rows.collect())
}

fn method(told: &Told) -> Vec<String> {
    let (summary, plan) = (&told.summary, &told.plan);
    let confidence = percent(summary.confidence).replace(".0", "");
    let mut lines = vec![
        format!(
            "Intervals are {confidence}, over blocks: worlds that are played once in each order of the seats{}.",
            if plan.series.is_some() { ", again and again by the same people" } else { "" }
        ),
        "Win rates are points shares (a draw counts half), with Jeffreys' interval on as many matches as the blocks are worth."
            .to_string(),
        format!("All chance comes from seed {}; the same brief gives the same matches on any machine.", plan.seed),
        format!(
            "Played with {} on {}, {}, {} threads; {} to {}.",
            told.manifest.program,
            told.manifest.machine.os,
            told.manifest.machine.arch,
            told.manifest.machine.threads,
            told.manifest.started,
            told.manifest.ended.as_deref().unwrap_or("now")
        ),
    ];
    match summary.kind {
        StudyKind::Tune => lines.push(format!(
            "The search played {} matches; what is shown was measured afterwards, on blocks that it never saw.",
            count(summary.tune.as_ref().map_or(0, |told| told.search_matches))
        )),
        StudyKind::Tournament => {
            lines.push(
                "Ratings: Bradley and Terry's model with ties, 400 points a decade, errors clustered by block.".into(),
            );
        }
        StudyKind::Sweep => lines.push("Curve: logistic with lapse rates; its band from resampled blocks.".into()),
        _ => {}
    }
    lines
}

fn sources(study: &Study) -> Vec<(String, String)> {
    let files = [("The brief", "brief.toml"), ("The difficulty sheet", "sheet.toml")];
    let texts = files.into_iter().filter_map(|(name, file)| Some((name.to_string(), study.read_text(file).ok()?)));
    texts.filter(|(_, text)| !text.trim().is_empty()).collect()
}

/// Several studies side by side: what each found, and entrants of one name over all of them.
fn together(told: &[Told], desk: &Desk) -> Section {
    let rows = told.iter().map(|own| TableRow {
        key: own.study.name().into(),
        cells: vec![
            TableCell::text(own.study.name()),
            TableCell::text(own.summary.kind.name()),
            TableCell::text(own.summary.game.clone()),
            TableCell::number(count(own.summary.matches), own.summary.matches as f64),
            TableCell::text(finding(&own.summary)),
        ],
    });
    let names = [("Study", false), ("Kind", false), ("Game", false), ("Matches", true), ("Found", false)];
    let (found, figure) = same_names(told, desk);
    Section {
        id: "together".into(),
        title: "Together".into(),
        found,
        figures: figure.into_iter().collect(),
        tables: table("The studies", &names, rows.collect()).into_iter().collect(),
        ..Section::default()
    }
}

/// Entrants that several studies of one game have: their rates in a figure, and how each differs from the first.
fn same_names(told: &[Told], desk: &Desk) -> (Vec<String>, Option<PageFigure>) {
    let plain = |own: &&Told| !matches!(own.summary.kind, StudyKind::Sweep | StudyKind::Tune);
    let several: Vec<&Told> = told.iter().filter(plain).collect();
    let (mut sentences, mut rows) = (Vec::new(), Vec::new());
    let mut done: Vec<(&str, &str)> = Vec::new();
    for first in &several {
        for (place, entrant) in first.summary.entrants.iter().enumerate() {
            let key = (first.summary.game.as_str(), entrant.name.as_str());
            let place_in = |own: &Told| own.summary.entrants.iter().position(|other| other.name == entrant.name);
            let others: Vec<(&Told, usize)> = several
                .iter()
                .filter(|own| own.summary.game == key.0 && own.study.name() != first.study.name())
                .filter_map(|own| Some((*own, place_in(own)?)))
                .collect();
            if done.contains(&key) || others.is_empty() {
                continue;
            }
            done.push(key);
            for (own, place) in std::iter::once((*first, place)).chain(others.iter().copied()) {
                let seen = &own.summary.entrants[place];
                rows.extend(seen.win_rate.map(|rate| RatesRow {
                    name: format!("{} in {}", seen.name, own.study.name()),
                    rate: estimate(&rate),
                    record: [seen.wins, seen.draws, seen.losses],
                }));
            }
            for (own, other) in others {
                sentences.extend(difference(first, place, own, other, desk));
            }
        }
    }
    if rows.is_empty() {
        return (sentences, None);
    }
    let words = Words {
        title: "The same entrants in several studies".into(),
        subtitle: "Win rate over all they played there".into(),
        caption: "95% intervals over blocks. Opponents may differ from study to study.".into(),
    };
    let drawing = Rates { words, rows }.draw();
    (sentences, Some(PageFigure::new("the same entrants in several studies", &drawing)))
}

/// How an entrant's win rate in one study differs from that in another, in a sentence.
fn difference(a: &Told, a_place: usize, b: &Told, b_place: usize, desk: &Desk) -> Option<String> {
    let game = desk.game(&a.summary.game).ok()?;
    let told = compare_stored(a.stored(a_place), b.stored(b_place), game, (None, None)).ok()?;
    Some(show::comparison::sentence(&told, a.summary.confidence))
}
