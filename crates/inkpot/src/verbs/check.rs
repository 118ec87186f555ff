//! `check`: all that is wrong with a brief, what it asks for, and about how long it takes.

use std::sync::atomic::AtomicBool;
use std::time::{Duration, Instant};

use inkpot_lab::{Plan, Runner, StudyKind, Tune};
use serde_json::json;

use crate::args::BriefArgs;
use crate::brief::{self, Asked};
use crate::desk::Desk;
use crate::failure::Failure;
use crate::show::format::{count, counted, duration};

/// The sample that is timed ends after so long ...
const SAMPLE: Duration = Duration::from_millis(400);
/// ... and looks at so many cells at most.
const CELLS_SAMPLED: usize = 8;
/// Blocks with and without each modifier.
const EFFECT_BLOCKS: u64 = 200;

pub(super) fn run(args: &BriefArgs, desk: &Desk) -> Result<(), Failure> {
    let (_, asked) = brief::load(&args.brief, desk)?;
    let plan = match asked {
        Asked::Study(plan) => plan,
        Asked::Tune(tune) => return check_tune(&tune, args, desk),
    };
    let seconds = sample(&plan, desk)?;
    if desk.json {
        desk.print_json(&json!({
            "kind": plan.kind(), "game": plan.ground.game, "cells": plan.total_cells(), "blocks": plan.total_blocks(),
            "matches": plan.total_matches(), "seconds_about": seconds,
        }));
        return Ok(());
    }
    let cells = if plan.vary().is_empty() { ("pairing", "pairings") } else { ("point", "points") };
    desk.print(format!(
        "{} is fine: a {} of {} with {}{} each.\n{} in all, in {} blocks; {} on {}.",
        args.brief.display(),
        if plan.kind() == StudyKind::Compare { "comparison" } else { plan.kind().name() },
        counted(plan.total_cells(), cells.0, cells.1),
        if plan.comparison().is_some_and(|asked| asked.until_clear) { "at most " } else { "" },
        counted(plan.blocks * plan.matches_a_block(), "match", "matches"),
        counted(plan.total_matches(), "match", "matches"),
        count(plan.total_blocks()),
        if seconds < 1.0 { duration(seconds) } else { format!("about {}", duration(seconds)) },
        counted(desk.threads as u64, "thread", "threads"),
    ));
    Ok(())
}

fn check_tune(tune: &Tune, args: &BriefArgs, desk: &Desk) -> Result<(), Failure> {
    let players: u64 = tune.rungs.iter().map(|rung| rung.players.len() as u64).sum();
    let game = desk.game(&tune.ground.game)?;
    let effects = if args.effects { tune.effects(game, EFFECT_BLOCKS) } else { Vec::new() };
    let (search, proof) = (tune.budget * tune.rungs.len() as u64, tune.proof * players);
    if desk.json {
        desk.print_json(&json!({
            "kind": "tune", "game": tune.ground.game, "rungs": tune.rungs.len(), "free": tune.free.len(),
            "search_matches_at_most": search, "proof_matches": proof,
            "without_effect": effects.iter().filter(|own| own.moved.is_empty()).map(|own| json!({ "rung": own.rung, "of": own.side.name(), "knob": own.knob, "any": own.any })).collect::<Vec<_>>(),
        }));
        return Ok(());
    }
    desk.print(format!(
        "{} is fine: a ladder of {}, {} free.\nAt most {} of search, {} of proof.",
        args.brief.display(),
        counted(tune.rungs.len() as u64, "rung", "rungs"),
        counted(tune.free.len() as u64, "knob", "knobs"),
        counted(search, "match", "matches"),
        counted(proof, "match", "matches"),
    ));
    for own in &effects {
        let what = format!("rung `{}`: {}.{}", own.rung, own.side.name(), own.knob);
        desk.print(match (own.any, own.moved.as_slice()) {
            (false, _) => {
                format!("note: {what} has no effect at all: no match of {} went otherwise", 2 * EFFECT_BLOCKS)
            }
            (true, []) => format!("note: {what}: no effect on any target seen in {} matches", 2 * EFFECT_BLOCKS),
            (true, moved) => format!("{what} moves {}", moved.join(", ")),
        });
    }
    if args.effects && effects.is_empty() {
        desk.print("No rung has a modifier.");
    }
    Ok(())
}

/// Plays a few blocks of evenly spread cells and reckons from them how long all of it takes, in seconds.
fn sample(plan: &Plan, desk: &Desk) -> Result<f64, Failure> {
    let stop = AtomicBool::new(false);
    let runner = Runner::new(plan, desk.game(&plan.ground.game)?, 1, &stop);
    let tried = plan.cells.len().min(CELLS_SAMPLED) as u64;
    let began = Instant::now();
    let mut played = 0u32;
    'sample: for block in 0..plan.blocks {
        for cell in (0..tried).map(|i| i * plan.cells.len() as u64 / tried) {
            let cells = plan.cells.len() as u64;
            let at = if plan.interleaved() { block * cells + cell } else { cell * plan.blocks + block };
            runner.play_span(&(at..at + 1));
            played += 1;
            if began.elapsed() > SAMPLE {
                break 'sample;
            }
        }
    }
    let a_block = began.elapsed().as_secs_f64() / f64::from(played.max(1));
    Ok(a_block * plan.total_blocks() as f64 / desk.threads as f64)
}
