//! What should be known before the figures are believed, in plain sentences.

use inkpot_core::{GameEntry, Knob};
use inkpot_stats::Model;

use crate::tally::CellTally;
use crate::{Format, Plan, Subject, Summary};

/// A share of draws from which a study is called draw-heavy.
const MANY_DRAWS: f64 = 0.3;
/// A share of matches cut short from which that is said.
const MANY_CUT_SHORT: f64 = 0.05;
/// Fewer blocks than this and every interval is wide.
const FEW_BLOCKS: u64 = 20;
/// A first seat this many margins from one half is worth a note; one margin alone is passed by luck in one study of
/// twenty.
const CLEARLY: f64 = 2.0;
/// An effect with a larger p-value is not seen.
const UNSEEN: f64 = 0.05;

/// The notes of a study.
pub(crate) fn notes(summary: &Summary, plan: &Plan, cells: &[CellTally], game: &dyn GameEntry) -> Vec<String> {
    let mut notes = Vec::new();
    trouble(&mut notes, summary, cells);
    repeats(&mut notes, plan, cells);
    by_the_clock(&mut notes, plan);
    shape(&mut notes, summary, cells);
    if !plan.vary.is_empty() {
        sweep(&mut notes, summary, plan);
    }
    notes.extend(unmoved(plan, game));
    ranked(&mut notes, summary);
    compared(&mut notes, summary);
    let played = plan.blocks * plan.matches_a_block();
    let stopped = summary.comparison.as_ref().is_some_and(|told| told.clear_at.is_some());
    if played != plan.matches && !stopped {
        let (asked, seats) = (plan.matches, plan.matches_a_block());
        notes.push(format!(
            "{asked} matches were asked for, {played} played: whole blocks of {seats}, one a seat order"
        ));
    }
    // The rounds of a Swiss tournament have blocks of their own, and everybody plays on.
    let swiss = plan.tournament.is_some_and(|tournament| tournament.format == Format::Swiss);
    let blocks = if swiss { plan.blocks * plan.rounds.len() as u64 } else { plan.blocks };
    if blocks < FEW_BLOCKS && !stopped {
        let s = if blocks == 1 { "" } else { "s" };
        notes.push(format!("only {blocks} block{s}: every interval is wide; ask for more matches"));
    }
    notes
}

fn percent(share: f64) -> String {
    format!("{:.0} %", share * 100.0)
}

fn trouble(notes: &mut Vec<String>, summary: &Summary, cells: &[CellTally]) {
    if summary.voids > 0 {
        notes.push(format!(
            "the game itself fell in {} of {} matches: they count for nobody (see the column `incident` of the export)",
            summary.voids, summary.matches
        ));
    }
    let forfeits = summary.endings.get("forfeit").copied().unwrap_or(0);
    if forfeits > 0 {
        notes.push(format!(
            "{forfeits} of {} matches were forfeited by an agent that crashed (see the column `incident` of the export)",
            summary.matches
        ));
    }
    for entrant in summary.entrants.iter().filter(|entrant| entrant.faults > 0) {
        notes.push(format!("`{}` made {} faults in {} matches", entrant.name, entrant.faults, entrant.matches));
    }
    let void_blocks: u64 =
        cells.iter().map(|cell| cell.blocks - (cell.first_seat.blocks() + cell.repeats).min(cell.blocks)).sum();
    if summary.voids > 0 && void_blocks > 0 {
        notes.push(format!("{void_blocks} blocks with a void match are left out of all rates"));
    }
}

fn repeats(notes: &mut Vec<String>, plan: &Plan, cells: &[CellTally]) {
    for (cell, tally) in plan.cells.iter().zip(cells) {
        let (name, blocks) = (plan.cell_name(cell), tally.blocks);
        if tally.all_alike() {
            notes.push(format!(
                "{name}: nothing is left to chance, so all {blocks} blocks are one and the same match over and over; \
                 they count once"
            ));
        } else if tally.repeats > 0 {
            notes.push(format!(
                "{name}: nothing but the start is left to chance, and {} of {blocks} blocks repeat an earlier one; \
                 rates and means count each of the {} different ones once",
                tally.repeats,
                blocks - tally.repeats
            ));
        }
    }
}

/// Agents with a budget of time play otherwise on another day.
fn by_the_clock(notes: &mut Vec<String>, plan: &Plan) {
    let timed = |knobs: &inkpot_core::Knobs| knobs.get("millis").is_some();
    let names: Vec<String> = plan
        .entrants
        .iter()
        .filter(|entrant| timed(&entrant.knobs))
        .map(|entrant| format!("`{}`", entrant.name))
        .collect();
    if !names.is_empty() {
        notes.push(format!(
            "{} {} by the clock: these rows cannot be reproduced; a budget of nodes or iterations can",
            names.join(", "),
            if names.len() == 1 { "thinks" } else { "think" }
        ));
    }
}

fn shape(notes: &mut Vec<String>, summary: &Summary, cells: &[CellTally]) {
    let matches = summary.matches.max(1) as f64;
    let draws: u64 = cells.iter().map(|cell| cell.entrants.first().map_or(0, |entrant| entrant.draws)).sum();
    if draws as f64 / matches > MANY_DRAWS {
        notes.push(format!("draw-heavy: {} of the matches are draws", percent(draws as f64 / matches)));
    }
    let cut_short: u64 = cells.iter().map(|cell| cell.cut_short).sum();
    if cut_short as f64 / matches > MANY_CUT_SHORT {
        notes.push(format!(
            "{} of the matches were cut short before the rules decided them",
            percent(cut_short as f64 / matches)
        ));
    }
    if let Some(first) = summary.first_seat.filter(|first| (first.value - 0.5).abs() > CLEARLY * first.half_width()) {
        notes.push(format!("the first seat takes {} of the points: the seats are not alike", percent(first.value)));
    }
    if summary.points.is_empty() {
        for entrant in &summary.entrants {
            match entrant.win_rate {
                Some(rate) if rate.value <= 0.02 => {
                    notes.push(format!("one-sided: `{}` hardly ever wins", entrant.name));
                }
                Some(rate) if rate.value >= 0.98 => {
                    notes.push(format!("one-sided: `{}` hardly ever loses", entrant.name));
                }
                _ => {}
            }
        }
    }
}

fn sweep(notes: &mut Vec<String>, summary: &Summary, plan: &Plan) {
    let Some(curve) = &summary.curve else {
        if plan.vary.len() == 1 && plan.target.is_some() {
            notes.push("no curve: it needs a numeric knob, at least four points and five blocks".into());
        }
        if plan.vary.len() == 2 && plan.target.is_some() {
            notes.push(
                "a surface has no single value that gives the target: see the points whose interval holds it".into(),
            );
        }
        return;
    };
    if curve.fit.effect_p > UNSEEN {
        notes.push(format!(
            "no effect of `{}` on the win rate is seen (p = {:.2}): the points differ no more than chance makes them",
            curve.knob, curve.fit.effect_p
        ));
    }
    if curve.model == Model::Isotonic {
        notes.push(format!(
            "a logistic curve does not describe the points ({}); straight lines after isotonic regression stand in its place",
            if curve.fit.misfit_p < 0.001 { "p < 0.001".into() } else { format!("p = {:.3}", curve.fit.misfit_p) }
        ));
    }
    if let Some(solved) = summary.solved.as_ref().filter(|solved| solved.value.is_none()) {
        let rates: Vec<f64> = curve.band.iter().map(|at| at[1]).collect();
        let low = rates.iter().copied().fold(f64::INFINITY, f64::min);
        let high = rates.iter().copied().fold(f64::NEG_INFINITY, f64::max);
        notes.push(format!(
            "no value of `{}` measured gives {}: the curve runs from {} to {}",
            solved.knob,
            percent(solved.target),
            percent(low),
            percent(high)
        ));
    }
}

/// How many entrants or tables are named in one note.
const NAMED: usize = 3;

/// What ratings hide.
fn ranked(notes: &mut Vec<String>, summary: &Summary) {
    let Some(told) = &summary.tournament else { return };
    if told.groups > 1 {
        notes.push(format!(
            "the field falls into {} groups that never met: between them ratings say next to nothing; play more rounds",
            told.groups
        ));
    }
    let circles = &told.circles;
    if circles.seen > 0 && circles.p < UNSEEN {
        let named: Vec<String> = circles
            .clearest
            .iter()
            .take(1)
            .map(|three| format!("{} beats {}", three.join(" beats "), three[0]))
            .collect();
        let (seen, s) = (circles.seen, if circles.seen == 1 { "" } else { "s" });
        notes.push(format!(
            "strength goes round in circles, and one rating cannot tell who beats whom: {}; {seen} circle{s} among {} \
             separable threes, where chance alone would give {:.1}",
            named.join(""),
            circles.threes,
            circles.by_chance
        ));
    }
    let level: Vec<String> = told
        .rounds
        .iter()
        .flat_map(|round| &round.tables)
        .filter(|table| table.by_seed)
        .filter_map(|table| Some(format!("`{}`", table.through.as_ref()?)))
        .collect();
    if !level.is_empty() {
        let more = if level.len() > NAMED { format!(" and {} more", level.len() - NAMED) } else { String::new() };
        notes.push(format!(
            "level after every match, and through only as the better seed: {}{more}",
            level[..level.len().min(NAMED)].join(", ")
        ));
    }
}

/// What stopping early leaves behind.
fn compared(notes: &mut Vec<String>, summary: &Summary) {
    if summary.comparison.as_ref().is_some_and(|told| told.until_clear) {
        notes.push(
            "stopped by looking: only the comparison's own interval allows for that; all others are those of a study of fixed size"
                .into(),
        );
    }
}

/// Says which knobs a varied master does not move because they are set themselves: a setting that silently does less
/// than it seems.
fn unmoved(plan: &Plan, game: &dyn GameEntry) -> Vec<String> {
    let mut notes = Vec::new();
    for vary in &plan.vary {
        let Subject::Entrant(place) = vary.subject else { continue };
        let entrant = &plan.entrants[place];
        let sheet = game.agents().iter().find(|sheet| sheet.name == entrant.kind);
        let follows =
            |knob: &&Knob| knob.master() == Some(vary.knob.as_str()) && entrant.given.get(&knob.name).is_some();
        let held: Vec<&str> =
            sheet.into_iter().flat_map(|sheet| &sheet.knobs).filter(follows).map(|knob| knob.name.as_str()).collect();
        if !held.is_empty() {
            notes.push(format!(
                "`{}` does not move {} of `{}`: set by {}",
                vary.knob,
                held.join(", "),
                entrant.name,
                if entrant.agent == entrant.kind { "hand" } else { "its preset or by hand" }
            ));
        }
    }
    notes
}
