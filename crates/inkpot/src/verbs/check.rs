//! `check`: the problems of a brief, its contents, and its expected duration.

use inkpot_lab::{Pace, StudyPlan};
use serde_json::{Value, json};

use super::check_game;
use crate::args::BriefArgs;
use crate::briefs::{self, ResolvedBrief};
use crate::desk::Desk;
use crate::failure::Failure;
use crate::kinds::{self, Checked};
use crate::show::format::{about, count, counted};
use crate::{game_file, input};

pub(super) fn run(args: &BriefArgs, desk: &Desk) -> Result<(), Failure> {
    if game_file::is_one(&input::text(&args.brief)?) {
        return check_game::run(&args.brief, desk);
    }
    let (_, parsed) = briefs::load(&args.brief, desk)?;
    let Checked { text, json } = match parsed {
        ResolvedBrief::Study(plan) => check(&plan, desk)?,
        ResolvedBrief::Search(search) => kinds::searches(&search).check(args.effects, desk)?,
    };
    if desk.json {
        desk.print_json(&json);
    } else {
        desk.print(format!("{} is fine: {text}", args.brief.display()));
    }
    Ok(())
}

fn check(plan: &StudyPlan, desk: &Desk) -> Result<Checked, Failure> {
    let settings: Vec<_> = plan.cells.iter().map(|cell| plan.setting(cell)).collect();
    let pace = Pace::sampled(&settings, desk.game(&plan.ground.game)?, plan.blocks);
    let cells = if plan.vary().is_empty() { ("pairing", "pairings") } else { ("point", "points") };
    let text = format!(
        "a {} of {} with {}{} each.\n{} in all, in {} blocks; {} on {}.",
        kinds::written(&plan.design).noun(plan),
        counted(plan.total_cells(), cells.0, cells.1),
        if plan.comparison().is_some_and(|compare| compare.until_clear) { "at most " } else { "" },
        counted(plan.blocks * plan.matches_a_block(), "match", "matches"),
        counted(plan.total_matches(), "match", "matches"),
        count(plan.total_blocks()),
        about(&pace, plan.total_matches(), desk.threads),
        counted(desk.threads as u64, "thread", "threads"),
    );
    Ok(Checked { text, json: figures(plan, pace.seconds(plan.total_matches(), desk.threads)) })
}

fn figures(plan: &StudyPlan, seconds: f64) -> Value {
    json!({
        "kind": plan.kind(), "game": plan.ground.game, "cells": plan.total_cells(), "blocks": plan.total_blocks(),
        "matches": plan.total_matches(), "seconds_about": seconds,
    })
}
