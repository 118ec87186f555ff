//! Paths of the champion on the level, over those of the last generation or of its earlier states.

use inkpot_core::{Paint, Shape};
use inkpot_figures::{Drawing, Paths, PathsShape, Words};

use super::searched::Searched;
use super::words;
use crate::failure::Failure;
use crate::figures::Gallery;
use crate::show::format::counted;
use crate::stored::{CHECKPOINT, SEARCH};

/// Draws it.
pub(super) fn draw(searched: &Searched, gallery: &Gallery) -> Result<Drawing, Failure> {
    let found = searched.found();
    let ground = &searched.aim().ground;
    let missing = || Failure::Failed(format!("{CHECKPOINT} is missing, and with it the population"));
    let checkpoint = gallery.study.read_sealed(CHECKPOINT, SEARCH)?.ok_or_else(missing)?;
    let game = gallery.desk.game(&ground.game)?;
    let paths = searched.sought().paths(&checkpoint, found.champion_seed, game);
    let paths = paths.map_err(|error| Failure::Failed(error.to_string()))?;
    let paths = paths.ok_or_else(|| Failure::Failed(format!("`{}` draws no scene of its seats", ground.game)))?;
    // Lettering belongs to the level where it names something that stands there.
    let shapes = &paths.scene.shapes;
    let named =
        |at: [f64; 2]| shapes.iter().any(|shape| matches!(shape, Shape::Text { at: shape, .. } if *shape == at));
    let stands = |at: [f64; 2]| shapes.iter().any(|shape| matches!(shape, Shape::Ring { centre, .. } if *centre == at));
    let level = shapes.iter().filter_map(|shape| match shape.clone() {
        Shape::Line { from, to, paint: Paint::Ground, .. } => Some(PathsShape::Line { from, to }),
        // What is faint lies behind all: arrows of a wind, a grid.
        Shape::Line { from, to, paint: Paint::Faint, .. } => Some(PathsShape::Faint { from, to }),
        Shape::Rectangle { low, high, paint: Paint::Ground } => Some(PathsShape::Area { low, high }),
        Shape::Ring { centre, radius, paint } if paint == Paint::Ground || named(centre) => {
            Some(PathsShape::Circle { centre, radius })
        }
        Shape::Text { at, text, .. } if stands(at) => Some(PathsShape::Text { at, text }),
        _ => None,
    });
    let trained = found.method.trains();
    let others = paths.population.len() as u64;
    let others = if trained {
        format!("its {} in one each", counted(others, "earlier state", "earlier states"))
    } else {
        format!("the {} of the last generation in one", counted(others, "candidate", "candidates"))
    };
    let matches = counted(paths.champion.len() as u64, "match", "matches");
    Ok(Paths {
        words: Words {
            title: words::headline(found),
            subtitle: format!("{} of {}: the champion in {matches}, and {others}", ground.level, ground.game),
            caption: format!(
                "Blocks that no search saw. {}, seed {}. Study {}.",
                gallery.summary.game, found.champion_seed, gallery.summary.study
            ),
        },
        window: [paths.scene.low, paths.scene.high],
        level: level.collect(),
        name: "the champion".into(),
        ways: paths.champion,
        others: if trained { "where it was while it learned" } else { "where the last generation was" }.into(),
        visits: paths.population.into_iter().flatten().collect(),
    }
    .draw())
}
