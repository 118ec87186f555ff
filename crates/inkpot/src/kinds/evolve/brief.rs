//! The brief of an evolution, read and written.

use std::fmt::Write;

use inkpot_lab::{Evolve, EvolveDraft, NicheDraft, Place, RivalsDraft, SearchPlan, StudyKind, resolve_evolve};

use crate::brief::Reader;
use crate::failure::Failure;
use crate::kinds::found::{
    is_readable, number, read_aim, text, write_head, write_method, write_terms, write_yardstick,
};
use crate::kinds::kind::{Brief, Checkable};

/// Reads the brief of an evolution.
pub(crate) fn read(brief: &Brief) -> Result<Checkable<SearchPlan>, Failure> {
    let mut top = Reader::new(brief.table, Place::default(), brief.findings);
    let draft = EvolveDraft {
        aim: read_aim(&mut top, brief)?,
        niches: top.tables("niche").into_iter().map(niche).collect(),
        rivals: top.table("rivals").map(rivals),
        blocks: top.count("blocks"),
        fresh_blocks: top.flag("fresh_blocks"),
        matches: top.count("matches"),
        stagnation: top.count("stagnation"),
    };
    top.finish();
    if !is_readable(&draft.aim) {
        return Ok(Err(Vec::new()));
    }
    Ok(resolve_evolve(&draft, &brief.desk.registry).map(|evolve| SearchPlan::Evolve(Box::new(evolve))))
}

fn rivals(mut table: Reader) -> RivalsDraft {
    let draft = RivalsDraft {
        populations: table.count("populations"),
        current: table.count("current"),
        past: table.count("past"),
        hall_of_fame: table.count("hall_of_fame"),
    };
    table.finish();
    draft
}

fn niche(mut table: Reader) -> NicheDraft {
    let draft = NicheDraft {
        measure: table.needed_text("measure", "`measure = \"gap_m\"`").unwrap_or_default(),
        low: table.number("from"),
        high: table.number("to"),
        count: table.count("count"),
    };
    table.finish();
    draft
}

/// The brief of an evolution with every default filled in. Reading it again gives the same search.
pub(super) fn write(evolve: &Evolve) -> String {
    let mut out = String::new();
    let head = format!(
        "matches = {}\nblocks = {}\nfresh_blocks = {}\nstagnation = {}\n",
        evolve.matches, evolve.blocks, evolve.fresh_blocks, evolve.stagnation
    );
    write_head(&evolve.aim, StudyKind::Evolve, &head, &mut out);
    write_method(evolve.method.name.name(), &evolve.method.knobs, &mut out);
    for niche in &evolve.method.niches {
        let (measure, low, high) = (text(&niche.measure), number(niche.low), number(niche.high));
        let _ = write!(out, "\n[[niche]]\nmeasure = {measure}\nfrom = {low}\nto = {high}\ncount = {}\n", niche.count);
    }
    write_terms(&evolve.aim, StudyKind::Evolve, &mut out);
    if let Some(rivals) = &evolve.rivals {
        let _ = write!(
            out,
            "\n[rivals]\npopulations = {}\ncurrent = {}\npast = {}\nhall_of_fame = {}\n",
            rivals.populations, rivals.current, rivals.past, rivals.hall_of_fame
        );
    }
    write_yardstick(&evolve.aim, &mut out);
    out
}
