//! `check` of a game file: plays every agent, preset and level, each match twice.

use std::collections::BTreeMap;
use std::path::Path;
use std::time::{Duration, Instant};

use inkpot_core::{GameEntry, GameSource, Level, Row, Rows};
use inkpot_lab::{Draft, EntrantDraft, StudyPlan, resolve};
use serde_json::json;

use crate::desk::Desk;
use crate::failure::Failure;
use crate::game_file;
use crate::show::format::counted;
use crate::source::Source;

/// The matches of a check, by their second plays.
#[derive(Default)]
struct Checked {
    matches: u64,
    time: Duration,
    /// The first match that came out differently the second time.
    differing: Option<String>,
}

/// Checks the game file at `path`. Errs with the first problem.
pub(super) fn run(path: &Path, desk: &Desk) -> Result<(), Failure> {
    let source = game_file::source(&path.to_string_lossy(), Path::new(""), &desk.registry)?;
    let game = desk.game(&source)?;
    let (sheet, agents) = (game.sheet(), names(game));
    let mut checked = Checked::default();
    for agent in &agents {
        checked.play(&source, [agent, &agents[0]], None, desk)?;
    }
    for level in sheet.levels.iter().skip(1) {
        checked.play(&source, [&agents[0], &agents[0]], Some(&level.name), desk)?;
    }
    let millis = 1e3 * checked.time.as_secs_f64() / checked.matches as f64;
    if desk.json {
        desk.print_json(&json!({
            "game": sheet.name, "agents": agents, "matches": checked.matches, "milliseconds_a_match": millis,
            "repeats": checked.differing.is_none(), "differing": checked.differing,
        }));
        return Ok(());
    }
    let parts = [
        counted(game.agents().len() as u64, "agent", "agents"),
        counted(sheet.rules.len() as u64, "rules knob", "rules knobs"),
        counted(sheet.levels.len() as u64, "level", "levels"),
    ];
    desk.print(format!(
        "{} is fine: `{}` has {}. Every agent, preset and level played; {:.1} ms a match.",
        path.display(),
        sheet.name,
        parts.join(", "),
        millis
    ));
    desk.print(match &checked.differing {
        None => "The same seeds gave the same matches twice.".to_string(),
        Some(which) => format!(
            "{which} came out differently the second time: the game draws chance from elsewhere than its seeds, so its studies \
             are not reproducible."
        ),
    });
    Ok(())
}

/// Lists the agents and presets of a game.
fn names(game: &dyn GameEntry) -> Vec<String> {
    let of = |sheet: &inkpot_core::AgentSheet| {
        let presets = sheet.presets.iter().map(|preset| preset.name.clone());
        std::iter::once(sheet.name.clone()).chain(presets).collect::<Vec<_>>()
    };
    game.agents().iter().flat_map(of).collect()
}

impl Checked {
    /// Plays a block of these two, or of the first alone, twice. Errs with the reason of a void match.
    fn play(&mut self, game: &GameSource, two: [&str; 2], level: Option<&str>, desk: &Desk) -> Result<(), Failure> {
        let seats = *desk.game(game)?.sheet().seats.start();
        let entrant = |place: usize| EntrantDraft {
            name: Some(format!("{}-{}", two[place.min(1)], place + 1)),
            agent: two[place.min(1)].into(),
            ..EntrantDraft::default()
        };
        let draft = Draft {
            game: game.clone(),
            level: level.map(|name| Level::named(name, inkpot_core::Knobs::default())),
            seed: Some(1),
            matches: Some(1),
            seats: Some(seats as u64),
            entrants: (0..seats).map(entrant).collect(),
            ..Draft::default()
        };
        let plan = resolve(&draft.into(), &desk.registry)
            .map_err(|problems| Source::Arguments(BTreeMap::new()).report(&problems, desk.color_err))?;
        let [first, second] = [block(&plan, desk)?, block(&plan, desk)?];
        let on = level.map(|level| format!(" on level {level}")).unwrap_or_default();
        let which = format!("A match of `{}`{on}", two[0]);
        // The first may have started processes.
        self.matches += (second.0.rows.len() / seats) as u64;
        self.time += second.1;
        for (rows, _) in [&first, &second] {
            if let Some(incident) = rows.rows.iter().find_map(|row| row.incident.as_deref()) {
                let help = "give the command a request as in docs/game-file.md, and read its answer";
                return Err(Failure::Failed(format!("{which} is void: {incident}\n  help: {help}")));
            }
        }
        if self.differing.is_none() && result(&first.0) != result(&second.0) {
            self.differing = Some(which);
        }
        Ok(())
    }
}

/// Plays the first block of a plan on a new stage; with the time that it took.
fn block(plan: &StudyPlan, desk: &Desk) -> Result<(Rows, Duration), Failure> {
    let game = desk.game(&plan.ground.game)?;
    let stage = game.stage(&plan.setting(&plan.cells[0]));
    let mut stage = stage.map_err(|error| Failure::Failed(error.to_string()))?;
    let (mut rows, begun) = (Rows::new(game.sheet().measures.len()), Instant::now());
    stage.play_block(plan.spot(0), &mut rows);
    Ok((rows, begun.elapsed()))
}

/// The result of matches as text, without times; figures by their bits.
fn result(rows: &Rows) -> String {
    let row = |row: &Row| format!("{} {} {} {}\n", row.score.to_bits(), row.placement, row.ticks, row.ending);
    let measures = rows.measures.iter().map(|x| format!("{} ", x.to_bits()));
    rows.rows.iter().map(row).chain(measures).collect()
}
