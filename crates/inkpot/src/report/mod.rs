//! From stored studies to the report page: what was asked and found in words, the figures, the tables, the method.

mod tables;
mod together;

use inkpot_core::{GameEntry, KnobRange, KnobValue, Knobs};
use inkpot_figures::{Page, PageFigure, Section};
use inkpot_lab::{Plan, Stored, StudyKind, Summary, find_agent};
use inkpot_ledger::{Manifest, Study};

use self::tables::tables;
use self::together::together;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::figures::Gallery;
use crate::show::format::{count, counted, ends, percent};
use crate::show::summary::finding;
use crate::show::{self, tune};
use crate::stored;

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
        let summary = stored::stored_summary(&study)?;
        let (manifest, plan) = stored::open(&study, desk)?;
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
        ("Kind".to_string(), plan.kind().name().to_string()),
        ("Game".into(), plan.ground.game.clone()),
        ("Level".into(), plan.ground.level.to_string()),
        ("Matches".into(), format!("{} in {} blocks", count(summary.matches), count(summary.blocks))),
        ("Seed".into(), plan.ground.seed.to_string()),
    ];
    if let Some(series) = plan.ground.series {
        asked.push(("Series".into(), format!("{series} matches by the same people")));
    }
    let rules = changed(&plan.ground.rules, &game.sheet().rules);
    if !rules.is_empty() {
        asked.push(("Rules".into(), rules));
    }
    if let Some(target) = plan.target() {
        asked.push(("Target".into(), percent(target)));
    }
    for vary in plan.vary() {
        let values: Vec<String> = vary.values.iter().map(KnobValue::to_string).collect();
        let text = match values.as_slice() {
            [first, .., last] if values.len() > 6 => format!("{first} to {last}, {} values", values.len()),
            _ => values.join(", "),
        };
        asked.push((plan.vary_name(vary), text));
    }
    for entrant in plan.entrants.iter().take(12).filter(|_| plan.kind() != StudyKind::Tune) {
        // What a preset sets is in its name.
        let knobs = find_agent(game, &entrant.agent).map(|(sheet, preset)| {
            let own = entrant.given.iter().filter(|(name, value)| preset.get(name) != Some(value));
            changed(&own.map(|(name, value)| (name.to_string(), value.clone())).collect(), &sheet.knobs)
        });
        let knobs = knobs.filter(|knobs| !knobs.is_empty()).map(|knobs| format!(" with {knobs}")).unwrap_or_default();
        asked.push((entrant.name.clone(), format!("{}{knobs}", entrant.agent)));
    }
    for rung in summary.tune().into_iter().flat_map(|told| &told.rungs) {
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
    for rung in summary.tune().into_iter().flat_map(|told| &told.rungs) {
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

fn method(told: &Told) -> Vec<String> {
    let (summary, plan) = (&told.summary, &told.plan);
    let confidence = percent(summary.confidence).replace(".0", "");
    let mut lines = vec![
        format!(
            "Intervals are {confidence}, over blocks: worlds that are played once in each order of the seats{}.",
            if plan.ground.series.is_some() { ", again and again by the same people" } else { "" }
        ),
        "Win rates are points shares (a draw counts half), with Jeffreys' interval on as many matches as the blocks are worth."
            .to_string(),
        format!("All chance comes from seed {}; the same brief gives the same matches on any machine.", plan.ground.seed),
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
    match summary.kind() {
        StudyKind::Tune => lines.push(format!(
            "The search played {} matches; what is shown was measured afterwards, on blocks that it never saw.",
            count(summary.tune().map_or(0, |told| told.search_matches))
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
