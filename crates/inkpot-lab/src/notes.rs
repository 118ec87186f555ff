//! Notes on every study, in plain sentences.

use inkpot_core::GRACE;

use crate::counts::{count, counted};
use crate::kind::Kind;
use crate::note::{Note, by_weight};
use crate::tally::CellTally;
use crate::{Plan, Summary};

/// A share of draws from which a study is called draw-heavy.
const MANY_DRAWS: f64 = 0.3;
/// A share of the points that counts as hardly ever winning.
const ONE_SIDED: f64 = 0.05;
/// A share of matches cut short from which that is said.
const MANY_CUT_SHORT: f64 = 0.05;
/// Fewer blocks than this and every interval is wide.
const FEW_BLOCKS: u64 = 20;
/// A first seat this many margins from one half is worth a note; one margin alone is passed by luck in one study of
/// twenty.
const CLEARLY: f64 = 2.0;

/// The notes of a study, the caveats of its finding among them; `stopped` says whether it ended early by design.
pub(crate) fn notes(
    summary: &Summary,
    plan: &Plan,
    cells: &[CellTally],
    kind: &dyn Kind,
    (caveats, stopped): (Vec<String>, bool),
) -> Vec<String> {
    let mut notes = Vec::new();
    trouble(&mut notes, summary, cells);
    decided(&mut notes, kind, plan, cells);
    by_the_clock(&mut notes, plan);
    shape(&mut notes, summary, cells);
    if kind.notes_one_sided() {
        one_sided(&mut notes, summary);
    }
    notes.extend(caveats);
    let played = plan.blocks * plan.matches_a_block();
    if played != plan.matches && !stopped {
        let (wanted, seats) = (plan.matches, plan.matches_a_block());
        notes.push(Note::Rounded.says(format!(
            "{} played instead of {}, in whole blocks of {seats}",
            counted(played, "match was", "matches were"),
            count(wanted)
        )));
    }
    let blocks = kind.fresh_blocks(plan);
    if blocks < FEW_BLOCKS && !stopped {
        let leave = counted(blocks, "block leaves", "blocks leave");
        notes.push(Note::FewBlocks.says(format!("{leave} every interval wide; play more matches")));
    }
    by_weight(&mut notes);
    notes
}

fn matches(n: u64) -> String {
    counted(n, "match", "matches")
}

pub(crate) fn percent(share: f64) -> String {
    format!("{:.0} %", share * 100.0)
}

fn trouble(notes: &mut Vec<String>, summary: &Summary, cells: &[CellTally]) {
    let failed = summary.voids - summary.abandoned();
    if failed > 0 {
        notes.push(Note::Failed.says(format!(
            "the game failed in {} of {}, and they count for nobody; read the column `incident` of the export",
            count(failed),
            matches(summary.matches)
        )));
    }
    if summary.abandoned() > 0 {
        notes.push(Note::Abandoned.says(format!(
            "the player left {} of {}; they count for nobody",
            count(summary.abandoned()),
            matches(summary.matches)
        )));
    }
    let forfeits = summary.endings.get("forfeit").copied().unwrap_or(0);
    if forfeits > 0 {
        notes.push(Note::Crashed.says(format!(
            "an agent crashed and forfeited {} of {}; read the column `incident` of the export",
            count(forfeits),
            matches(summary.matches)
        )));
    }
    for entrant in summary.entrants.iter().filter(|entrant| entrant.late > 0) {
        notes.push(Note::Late.says(format!(
            "`{}` made {} late in {}: each took more than twice its own time limit and {} ms more, as on a busy machine. Set \
             `nodes` or `iterations` instead of `millis`",
            entrant.name,
            counted(entrant.late, "decision", "decisions"),
            matches(entrant.matches),
            GRACE.as_millis()
        )));
    }
    for entrant in summary.entrants.iter().filter(|entrant| entrant.faults > entrant.late) {
        let (faults, illegal) = (entrant.faults - entrant.late, entrant.faults - entrant.late - entrant.crashed);
        let kinds = [(illegal, "illegal"), (entrant.crashed, "crashed")];
        let kinds = kinds.iter().filter(|(count, _)| *count > 0).map(|(n, kind)| format!("{} {kind}", count(*n)));
        let kinds = kinds.collect::<Vec<_>>().join(", ");
        notes.push(Note::Faults.says(format!(
            "`{}` made {} in {}: {kinds}",
            entrant.name,
            counted(faults, "fault", "faults"),
            matches(entrant.matches)
        )));
    }
    let void_blocks: u64 = cells.iter().map(|cell| cell.blocks - cell.first_seat.blocks().min(cell.blocks)).sum();
    if failed > 0 && void_blocks > 0 {
        let left_out = counted(void_blocks, "block with a void match is", "blocks with a void match are");
        notes.push(Note::VoidBlocks.says(format!("{left_out} left out of all rates")));
    }
}

fn decided(notes: &mut Vec<String>, kind: &dyn Kind, plan: &Plan, cells: &[CellTally]) {
    for (cell, tally) in plan.cells.iter().zip(cells) {
        let (name, blocks) = (kind.cell_name(plan, cell), tally.blocks);
        if tally.is_decided() {
            notes.push(
                Note::Decided
                    .says(format!("{name} is always the same match: neither the game nor its agents draw chance")),
            );
        } else if tally.is_alike() && blocks >= FEW_BLOCKS {
            let unlike = 1.0 - (1.0 - plan.ground.confidence).powf(1.0 / blocks as f64);
            notes.push(Note::Alike.says(format!(
                "all {} blocks of {name} went alike although chance is drawn; up to {} of others may differ",
                count(blocks),
                percent(unlike)
            )));
        }
    }
}

/// Agents with a budget of time are not reproducible.
fn by_the_clock(notes: &mut Vec<String>, plan: &Plan) {
    let names: Vec<String> = plan
        .entrants
        .iter()
        .filter(|entrant| entrant.is_by_the_clock(&entrant.knobs))
        .map(|entrant| format!("`{}`", entrant.name))
        .collect();
    if !names.is_empty() {
        let (think, their) = if names.len() == 1 { ("thinks", "its") } else { ("think", "their") };
        let so = if plan.record {
            format!("{their} choices are stored, so these matches can be replayed, but a new run will differ")
        } else {
            "a new run will differ; set `nodes` or `iterations` to make it reproducible".into()
        };
        notes.push(Note::Clock.says(format!("{} {think} by the clock: {so}", names.join(", "))));
    }
}

fn shape(notes: &mut Vec<String>, summary: &Summary, cells: &[CellTally]) {
    let matches = summary.matches.max(1) as f64;
    let draws: u64 = cells.iter().map(|cell| cell.entrants.first().map_or(0, |entrant| entrant.draws)).sum();
    if draws as f64 / matches > MANY_DRAWS {
        notes.push(Note::DrawHeavy.says(format!("{} of the matches are draws", percent(draws as f64 / matches))));
    }
    let cut_short: u64 = cells.iter().map(|cell| cell.cut_short).sum();
    if cut_short as f64 / matches > MANY_CUT_SHORT {
        notes.push(Note::CutShort.says(format!(
            "{} of the matches ended at the time limit before the rules decided them",
            percent(cut_short as f64 / matches)
        )));
    }
    if let Some(first) = summary.first_seat.filter(|first| (first.value - 0.5).abs() > CLEARLY * first.half_width()) {
        notes.push(Note::Seats.says(format!("the first seat takes {} of the points", percent(first.value))));
    }
}

fn one_sided(notes: &mut Vec<String>, summary: &Summary) {
    for entrant in &summary.entrants {
        match entrant.win_rate {
            Some(rate) if rate.high <= ONE_SIDED => {
                notes.push(Note::OneSided.says(format!("`{}` wins less than one match in twenty", entrant.name)));
            }
            Some(rate) if rate.low >= 1.0 - ONE_SIDED => {
                notes.push(Note::OneSided.says(format!("`{}` loses less than one match in twenty", entrant.name)));
            }
            _ => {}
        }
    }
}
