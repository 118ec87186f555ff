//! Report pages of stored studies: question and finding in words, the figures, the tables, the method.

mod reported;
mod together;

use inkpot_core::GameEntry;
use inkpot_figures::{Page, PageFigure, PageTable, Section};
use inkpot_lab::{StudyPlan, StudySummary};
use inkpot_ledger::Study;

use self::reported::Reported;
use self::together::together;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::kinds::{self, Part};
use crate::plots;
use crate::show::asked::changed;
use crate::show::format::{confidence, count, counted, said};
use crate::show::study_view::StudyView;
use crate::show::{costs, people};
use crate::stored;
use crate::telling::finding;

/// Studies that the title of a page names, at most.
const MOST_NAMED: usize = 6;

/// The page of these studies, several compared.
pub(crate) fn page(names: &[String], desk: &Desk) -> Result<Page, Failure> {
    let mut studies = Vec::new();
    for name in names {
        let study = desk.ledger.open(name)?;
        let summary = stored::stored_summary(&study, desk)?;
        let (manifest, plan) = stored::open(&study, desk)?;
        studies.push(Reported { study, manifest, plan, summary });
    }
    let mut sections = Vec::new();
    if studies.len() > 1 {
        sections.push(together(&studies, desk)?);
    }
    for reported in &studies {
        sections.push(section(reported, desk)?);
    }
    let matches: u64 = studies.iter().map(|reported| reported.summary.matches).sum();
    let title = match studies.as_slice() {
        [only] => question(only),
        many if many.len() > MOST_NAMED => format!("{} studies of {}", many.len(), games(many)),
        several => {
            let names: Vec<&str> = several.iter().map(|reported| reported.study.name()).collect();
            format!("{} studies of {}: {}", several.len(), games(several), names.join(", "))
        }
    };
    // Each study opens with a figure and a table; the others are folded under them.
    if studies.len() > 1 {
        for section in sections.iter_mut().skip(1) {
            let more = |count: usize| count.saturating_sub(1) as u64;
            let figures = counted(more(section.figures.len()), "more figure", "more figures");
            let tables = counted(more(section.tables.len()), "more table", "more tables");
            section.folded = Some(format!("{figures} and {tables} of {}, and its method", section.title));
        }
    }
    Ok(Page {
        title,
        subtitle: format!("{}; every figure with its interval", counted(matches, "match", "matches")),
        made_by: format!("Made by inkpot {} from what the ledger holds.", env!("CARGO_PKG_VERSION")),
        sections,
    })
}

/// Writes the study's question in a few words: entrants, knobs, game.
fn question(reported: &Reported) -> String {
    let (plan, game) = (&reported.plan, &reported.summary.game);
    let names: Vec<&str> = plan.entrants.iter().map(|entrant| entrant.name.as_str()).collect();
    let who = match names.as_slice() {
        [] => kinds::written(&plan.design).noun(plan).to_string(),
        few @ ([_] | [_, _] | [_, _, _]) => few.join(" against "),
        many => format!("{} entrants", many.len()),
    };
    let what = kinds::of(&reported.summary).question(&who, plan);
    format!("{what}, at {game}")
}

fn games(studies: &[Reported]) -> String {
    let mut games: Vec<&str> = studies.iter().map(|reported| reported.summary.game.as_str()).collect();
    games.sort_unstable();
    games.dedup();
    games.join(", ")
}

/// Letters, digits and dashes of a name.
fn id(name: &str) -> String {
    name.chars().map(|c| if c.is_ascii_alphanumeric() { c } else { '-' }).collect()
}

fn section(reported: &Reported, desk: &Desk) -> Result<Section, Failure> {
    let Reported { study, manifest, plan, summary } = reported;
    let game = desk.game(&summary.game)?;
    let gallery = plots::gallery(study, summary, &[], desk)?;
    let figures = plots::drawings(&gallery)?
        .iter()
        .map(|(name, drawing)| PageFigure::new(&format!("{} of {}", name.word(), study.name()), drawing))
        .collect();
    let mut warnings = summary.notes.clone();
    warnings.extend(costs::notes(plan, &manifest.decision_times));
    Ok(Section {
        id: id(study.name()),
        title: study.name().to_string(),
        warnings,
        folded: None,
        asked: asked(plan, summary, game),
        found: found(summary),
        figures,
        tables: tables(&StudyView { summary, game, times: &manifest.decision_times }),
        method: method(reported),
        sources: sources(study),
    })
}

/// Lists the request as name and value; rules and knobs only if they differ from the defaults.
fn asked(plan: &StudyPlan, summary: &StudySummary, game: &dyn GameEntry) -> Vec<(String, String)> {
    let mut lines = vec![
        ("Kind".to_string(), plan.kind().name().to_string()),
        ("Game".into(), plan.ground.game.to_string()),
        ("Level".into(), plan.ground.level.to_string()),
        ("Matches".into(), format!("{} in {} blocks", count(summary.matches), count(summary.blocks))),
        ("Seed".into(), plan.ground.seed.to_string()),
    ];
    if let Some(series) = plan.ground.series {
        lines.push(("Series".into(), format!("{series} matches by the same people")));
    }
    let rules = changed(&plan.ground.rules, &game.sheet().rules);
    if !rules.is_empty() {
        lines.push(("Rules".into(), rules));
    }
    lines.extend(kinds::of(summary).asked(plan, game));
    lines
}

/// The tables of a study.
fn tables(view: &StudyView) -> Vec<PageTable> {
    let parts = kinds::of(view.summary).parts(view).into_iter().filter_map(|part| match part {
        Part::Table(table) => table.page(),
        Part::Lines(_) => None,
    });
    parts.chain(people::table(&view.summary.people).page()).collect()
}

/// Writes the findings in sentences.
pub(crate) fn found(summary: &StudySummary) -> Vec<String> {
    let mut sentences = vec![finding(summary)];
    sentences.extend(kinds::of(summary).sentences());
    sentences.extend(summary.people.iter().map(people::sentence));
    if let Some(first) = summary.first_seat {
        sentences.push(format!("The first seat takes {} of the points.", said(&first)));
    }
    sentences
}

fn method(reported: &Reported) -> Vec<String> {
    let (summary, plan) = (&reported.summary, &reported.plan);
    let confidence = confidence(summary);
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
            reported.manifest.program,
            reported.manifest.machine.os,
            reported.manifest.machine.arch,
            reported.manifest.machine.threads,
            reported.manifest.started,
            reported.manifest.ended.as_deref().unwrap_or("now")
        ),
    ];
    lines.extend(kinds::of(summary).method());
    lines
}

fn sources(study: &Study) -> Vec<(String, String)> {
    let files = [("The brief", "brief.toml"), ("The difficulty sheet", "sheet.toml")];
    let texts = files.into_iter().filter_map(|(name, file)| Some((name.to_string(), study.read_text(file).ok()?)));
    texts.filter(|(_, text)| !text.trim().is_empty()).collect()
}
