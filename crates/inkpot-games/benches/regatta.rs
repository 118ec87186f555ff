//! How many boat ticks a second a core gives, each with an observation of nine rays; and what the rays cost of that.
//!
//! `cargo bench -p inkpot-games --bench regatta`

use std::time::Instant;

use inkpot_core::{Chance, Choices, Features, Game, GameFactory, Knobs, Laying, Level};
use inkpot_games::regatta::{self, Helm, Regatta};

const TICKS: u32 = 400_000;
const ROUNDS: usize = 5;

fn laid(level: &str, rays: f64) -> GameFactory<Regatta> {
    let entry = regatta::entry();
    let sheet = inkpot_core::GameEntry::sheet(&entry).clone();
    let rules = Knobs::default().with("rays", rays).resolve(&sheet.rules).expect("the rules are the game's");
    let level = Level::named(level, Knobs::default()).resolve(&sheet).expect("the level is the game's");
    entry.laid(&Laying { rules: &rules, level: &level, seats: 1, features: None }).expect("the level can be laid")
}

/// Ticks a second of a boat that steers by what it observes, so that nothing of it can be left out.
fn ticks_a_second(lay: &GameFactory<Regatta>) -> f64 {
    let mut world = Chance::from_seed(1);
    let mut game = lay(&mut world);
    let mut choices = Choices::none(1);
    let mut seen = Vec::new();
    let start = Instant::now();
    for tick in 0..TICKS {
        if game.verdict().is_some() {
            game = lay(&mut world);
        }
        game.observe(0, &mut seen);
        let sum: f32 = seen.iter().sum();
        let rudder = f64::from((sum + tick as f32 * 0.01).sin());
        choices.clear();
        choices.set(0, Helm { rudder });
        game.advance(&choices, &mut world);
    }
    f64::from(TICKS) / start.elapsed().as_secs_f64()
}

fn main() {
    for level in ["triangle", "windward", "channel", "harbour", "waters"] {
        let [with, without] = [9.0, 0.0].map(|rays| {
            let lay = laid(level, rays);
            (0..ROUNDS).map(|_| ticks_a_second(&lay)).fold(0.0, f64::max)
        });
        println!("{level}: {:.2} million ticks a second with 9 rays, {:.2} without any", with / 1e6, without / 1e6);
    }
}
