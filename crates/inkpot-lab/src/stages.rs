//! Stages kept by a player of blocks, so that costly parts are built once and not for every run of blocks.

use std::collections::HashMap;

use inkpot_core::{GameEntry, Halt, Rows, Setting, Spot, Stage};

/// Stages that are kept for good, at most.
const KEPT: usize = 64;

/// Stages by number.
///
/// The one that was asked for last is kept. A study that goes to and fro between its cells keeps the first 64 beside it,
/// for good: of more cells than that, only the rest are made again. Stages keep what searches remember, many megabytes
/// each, so a study that plays its cells one after the other keeps no more.
pub(crate) struct Stages<'a> {
    game: &'a dyn GameEntry,
    halt: &'a Halt,
    to_and_fro: bool,
    kept: HashMap<usize, Box<dyn Stage>>,
    last: Option<(usize, Box<dyn Stage>)>,
}

impl<'a> Stages<'a> {
    /// Builds an empty set of stages of this game, with a request to stop. `to_and_fro` says whether they are used in
    /// turns.
    pub(crate) fn new(game: &'a dyn GameEntry, halt: &'a Halt, to_and_fro: bool) -> Self {
        Self { game, halt, to_and_fro, kept: HashMap::new(), last: None }
    }

    /// The stage of this number, made from its setting where it is not kept.
    ///
    /// # Panics
    /// When the setting cannot be staged; it was checked before anything was played.
    pub(crate) fn get(&mut self, number: usize, setting: impl FnOnce() -> Setting) -> &mut dyn Stage {
        let (game, halt) = (self.game, self.halt);
        if self.to_and_fro && (self.kept.len() < KEPT || self.kept.contains_key(&number)) {
            return self.kept.entry(number).or_insert_with(|| staged(game, &setting(), halt)).as_mut();
        }
        let again = self.last.take().filter(|(last, _)| *last == number);
        let (_, stage) = self.last.insert(again.unwrap_or_else(|| (number, staged(game, &setting(), halt))));
        stage.as_mut()
    }
}

/// The stage of a setting that was checked.
///
/// # Panics
/// When it cannot be staged.
fn staged(game: &dyn GameEntry, setting: &Setting, halt: &Halt) -> Box<dyn Stage> {
    let mut stage = game.stage(setting).unwrap_or_else(|error| panic!("cannot stage what was checked: {error}"));
    stage.heed(halt);
    stage
}

/// Plays all matches of a block and appends their rows.
fn play_block(stage: &mut dyn Stage, block: u64, rows: &mut Rows) {
    stage.play_block(Spot { block, ..Spot::default() }, rows);
}

/// Several settings that are played on the same blocks.
pub(crate) struct StageSet {
    stages: Vec<Box<dyn Stage>>,
    rows: Vec<Rows>,
}

impl StageSet {
    /// Builds the stages of checked settings, with a request to stop.
    ///
    /// # Panics
    /// When one cannot be staged.
    pub(crate) fn of(settings: &[Setting], game: &dyn GameEntry, halt: &Halt) -> Self {
        let stages: Vec<_> = settings.iter().map(|setting| staged(game, setting, halt)).collect();
        let rows = stages.iter().map(|_| Rows::new(game.sheet().measures.len())).collect();
        Self { stages, rows }
    }

    /// The rows of every setting on a block.
    pub(crate) fn play(&mut self, block: u64) -> &[Rows] {
        for (stage, rows) in self.stages.iter_mut().zip(&mut self.rows) {
            rows.clear();
            play_block(stage.as_mut(), block, rows);
        }
        &self.rows
    }
}
