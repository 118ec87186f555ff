//! `check`: all that is wrong with a brief, what it asks for, and about how long it takes.

use std::sync::atomic::AtomicBool;
use std::time::{Duration, Instant};

use inkpot_lab::{Plan, Runner};
use serde_json::{Value, json};

use crate::args::BriefArgs;
use crate::briefs::{self, Asked};
use crate::desk::Desk;
use crate::failure::Failure;
use crate::kinds::{self, Checked};
use crate::show::format::{count, counted, duration};

/// The sample that is timed ends after so long ...
const SAMPLE: Duration = Duration::from_millis(400);
/// ... and looks at so many cells at most.
const CELLS_SAMPLED: usize = 8;

pub(super) fn run(args: &BriefArgs, desk: &Desk) -> Result<(), Failure> {
    let (_, asked) = briefs::load(&args.brief, desk)?;
    let Checked { text, json } = match asked {
        Asked::Study(plan) => check(&plan, desk)?,
        Asked::Search(sought) => kinds::searches(&sought).check(args.effects, desk)?,
    };
    if desk.json {
        desk.print_json(&json);
    } else {
        desk.print(format!("{} is fine: {text}", args.brief.display()));
    }
    Ok(())
}

fn check(plan: &Plan, desk: &Desk) -> Result<Checked, Failure> {
    let seconds = sample(plan, desk)?;
    let cells = if plan.vary().is_empty() { ("pairing", "pairings") } else { ("point", "points") };
    let text = format!(
        "a {} of {} with {}{} each.\n{} in all, in {} blocks; {} on {}.",
        kinds::written(&plan.design).noun(plan),
        counted(plan.total_cells(), cells.0, cells.1),
        if plan.comparison().is_some_and(|asked| asked.until_clear) { "at most " } else { "" },
        counted(plan.blocks * plan.matches_a_block(), "match", "matches"),
        counted(plan.total_matches(), "match", "matches"),
        count(plan.total_blocks()),
        if seconds < 1.0 { duration(seconds) } else { format!("about {}", duration(seconds)) },
        counted(desk.threads as u64, "thread", "threads"),
    );
    Ok(Checked { text, json: figures(plan, seconds) })
}

fn figures(plan: &Plan, seconds: f64) -> Value {
    json!({
        "kind": plan.kind(), "game": plan.ground.game, "cells": plan.total_cells(), "blocks": plan.total_blocks(),
        "matches": plan.total_matches(), "seconds_about": seconds,
    })
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
