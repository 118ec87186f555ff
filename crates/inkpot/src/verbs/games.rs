//! `games`: the games, and the size of one.

use std::path::Path;

use inkpot_core::{CountRequest, Layer, Sequences, Spot};
use inkpot_figures::{Still, Words};
use inkpot_lab::{KindDraft, StudyPlan};
use inkpot_stats::{Interval, Moments};
use serde_json::{Value, json};

use super::{Typed, explain};
use crate::args::{GamesArgs, SettingArgs};
use crate::desk::Desk;
use crate::failure::Failure;
use crate::show::describe;
use crate::show::format::{capital, count, plain};
use crate::show::table::{Column, table};
use crate::{hint, plots, scenes};

/// Positions of one layer that are held at once: about a gigabyte.
const MOST_POSITIONS: usize = 5_000_000;
const CONFIDENCE: f64 = 0.95;

pub(super) fn run(args: &GamesArgs, desk: &Desk) -> Result<(), Failure> {
    if let (Some(name), Some(folder)) = (&args.game, &args.scene) {
        return stills(args, name, folder, desk);
    }
    match (&args.game, args.count) {
        (Some(name), Some(exact)) => return counted(args, name, exact, desk),
        (None, _) if desk.json => {
            desk.print_json(&desk.registry.games().map(describe::game_json).collect::<Vec<_>>().into());
        }
        (None, _) => {
            desk.print(describe::games(desk.registry.games(), desk.color));
            desk.print(format!("\n{} shows rules, levels and measures.", hint::command(["games", "GAME"])));
        }
        (Some(name), None) if desk.json => desk.print_json(&describe::game_json(desk.game(name)?)),
        (Some(name), None) => desk.print(describe::game(desk.game(name)?, desk.color)),
    }
    Ok(())
}

/// A plan of the game with any agents: the setting is wanted for its rules and level.
fn any_plan(name: &str, setting: &SettingArgs, desk: &Desk) -> Result<StudyPlan, Failure> {
    let game = desk.game(name)?;
    let filler = game.agents().first().map(|sheet| sheet.name.clone()).unwrap_or_default();
    let entrants = vec![filler; *game.sheet().seats.start()];
    Typed::new(KindDraft::Batch, name, &entrants, setting, desk)?.resolve(desk)
}

/// Writes a still of the level that was named, or of each there is, as SVG and PNG.
fn stills(args: &GamesArgs, name: &str, folder: &Path, desk: &Desk) -> Result<(), Failure> {
    let game = desk.game(name)?;
    if !game.has_scene() {
        let help = format!("{} shows rules, levels and measures", hint::command(["games", name]));
        return Err(Failure::wrong(format!("`{name}` draws no scene of its states"), help));
    }
    let levels = match &args.setting.level {
        Some(level) => vec![level.clone()],
        None => game.sheet().levels.iter().map(|level| level.name.clone()).collect(),
    };
    let mut files = Vec::new();
    for level in levels {
        let SettingArgs { seed, rules, .. } = &args.setting;
        let plan = any_plan(name, &SettingArgs { seed: *seed, rules: rules.clone(), level: Some(level) }, desk)?;
        let stage = game.stage(&plan.setting(&plan.cells[0])).map_err(|error| Failure::Failed(error.to_string()))?;
        let scene = stage.open(Spot::default()).scene().unwrap_or_default();
        let ground = &plan.ground;
        let sheet = game.sheet().levels.iter().find(|sheet| sheet.name == ground.level.name());
        let drawing = Still {
            words: Words {
                title: format!("{name} on {}", ground.level),
                subtitle: sheet.map(|sheet| capital(&sheet.help)).unwrap_or_default(),
                caption: format!("The start of a match, seed {}.", ground.seed),
            },
            window: [scene.low, scene.high],
            shapes: scenes::drawn(&scene.shapes),
        }
        .draw();
        for ending in ["svg", "png"] {
            let path = folder.join(format!("{name}-{}.{ending}", ground.level.name()));
            plots::save(&drawing, &path)?;
            files.push(path);
        }
    }
    if desk.json {
        desk.print_json(&json!({ "files": files }));
    } else {
        desk.print(files.iter().map(|path| path.display().to_string()).collect::<Vec<_>>().join("\n"));
    }
    Ok(())
}

fn counted(args: &GamesArgs, name: &str, exact: u32, desk: &Desk) -> Result<(), Failure> {
    let game = desk.game(name)?;
    let plan = any_plan(name, &args.setting, desk)?;
    let request = CountRequest {
        exact,
        beyond: args.beyond,
        samples: args.samples,
        seed: plan.ground.seed,
        most_positions: MOST_POSITIONS,
    };
    let mut say = |layer: &Layer| tracing::info!("turn {} counted", layer.depth);
    let layers = game
        .count(&plan.setting(&plan.cells[0]), args.position.as_deref(), &request, &mut say)
        .map_err(|error| explain::refused(&error))?;
    if desk.json {
        let layers: Vec<Value> = layers.iter().map(to_json).collect();
        desk.print_json(
            &json!({ "game": name, "rules": plan.ground.rules, "position": args.position, "layers": layers }),
        );
        return Ok(());
    }
    let rules: Vec<String> = plan.ground.rules.iter().map(|(knob, value)| format!("{knob}={value}")).collect();
    let from = args.position.as_deref().unwrap_or("the plain start");
    desk.print(format!("{name} ({}) from {from}, by turns:\n\n{}", rules.join(", "), text(&layers, desk.color)));
    if let Some(folding) = folding(&layers) {
        desk.print(folding);
    }
    if layers.iter().any(|layer| matches!(layer.sequences, Sequences::Sampled { .. })) {
        desk.print(format!(
            "\nTurns after {exact} are estimated from {} lines of random play, with 95 % intervals; positions are \
             not estimated.",
            count(args.samples)
        ));
    }
    Ok(())
}

/// The number of sequences, with an interval where it is an estimate.
fn sequences(layer: &Layer) -> Interval {
    match layer.sequences {
        Sequences::Exact { count } => Interval { value: count as f64, low: count as f64, high: count as f64 },
        Sequences::Sampled { mean, sd, samples } => {
            let unknown = Interval { value: mean, low: 0.0, high: f64::INFINITY };
            let interval = Moments::of(samples, mean, sd).interval(CONFIDENCE).unwrap_or(unknown);
            Interval { low: interval.low.max(0.0), ..interval }
        }
    }
}

/// An estimated number: in full while its digits mean something, else with a power of ten.
fn about(x: f64) -> String {
    match x {
        x if x < 1e3 => format!("{x:.1}"),
        x if x < 1e6 => count(x.round() as u64),
        x => format!("{x:.3e}"),
    }
}

fn to_json(layer: &Layer) -> Value {
    let sequences = match layer.sequences {
        Sequences::Exact { count } => json!(count),
        Sequences::Sampled { .. } => json!(sequences(layer)),
    };
    json!({
        "depth": layer.depth, "exact": matches!(layer.sequences, Sequences::Exact { .. }), "sequences": sequences,
        "positions": layer.positions, "folded": layer.folded, "over": layer.over, "branching": layer.branching,
    })
}

/// Describes the saving by symmetries, if the game has them.
fn folding(layers: &[Layer]) -> Option<String> {
    let sum = |of: fn(&Layer) -> Option<u64>| layers.iter().filter_map(of).sum::<u64>();
    let (all, folded) = (sum(|layer| layer.folded.and(layer.positions)), sum(|layer| layer.folded));
    (folded > 0).then(|| {
        format!(
            "\nFolded, positions that mirror each other are stored once: {} instead of {}, a factor of {:.2}.",
            count(folded),
            count(all),
            all as f64 / folded as f64
        )
    })
}

fn text(layers: &[Layer], color: bool) -> String {
    let symmetric = layers.iter().any(|layer| layer.folded.is_some());
    let row = |layer: &Layer| {
        let all = sequences(layer);
        let (value, interval) = match layer.sequences {
            Sequences::Exact { count: exact } => (count(exact), "exact".to_string()),
            Sequences::Sampled { .. } => (about(all.value), format!("{} to {}", about(all.low), about(all.high))),
        };
        let mut row = vec![layer.depth.to_string(), value, interval, layer.positions.map(count).unwrap_or_default()];
        row.extend(symmetric.then(|| layer.folded.map(count).unwrap_or_default()));
        row.push(layer.over.map(count).unwrap_or_default());
        row.push(layer.branching.map(|mean| plain((mean * 1e3).round() / 1e3)).unwrap_or_default());
        row
    };
    let rows: Vec<Vec<String>> = layers.iter().map(row).collect();
    let names = ["Turn", "Sequences", "Interval", "Positions", "Folded", "Over", "Mean options"];
    let columns = names.into_iter().filter(|name| symmetric || *name != "Folded").map(Column::figure).collect();
    table(columns, rows, color)
}
