//! Sowing against a second, plain way of playing and solving it, and the searches against plain ones.

use std::collections::HashMap;

use inkpot_core::{Inquiry, Knobs, Place};
use inkpot_games::registry;
use proptest::prelude::*;

/// A board as lists: pits in order of sowing and stores by side, and who moves. Nothing shared with the game's own.
#[derive(Clone, PartialEq, Eq, Hash, Debug)]
struct Plain {
    pits: [Vec<u32>; 2],
    stores: [u32; 2],
    side: usize,
}

impl Plain {
    fn start(pits: usize, seeds: u32) -> Self {
        Self { pits: [vec![seeds; pits], vec![seeds; pits]], stores: [0, 0], side: 0 }
    }

    fn over(&self) -> bool {
        self.pits.iter().any(|side| side.iter().sum::<u32>() == 0)
    }

    fn moves(&self) -> Vec<usize> {
        if self.over() {
            return Vec::new();
        }
        (0..self.pits[self.side].len()).filter(|&pit| self.pits[self.side][pit] > 0).collect()
    }

    fn play(&self, pit: usize) -> Self {
        let mut next = self.clone();
        let mut hand = std::mem::take(&mut next.pits[self.side][pit]);
        let (mut side, mut at) = (self.side, pit);
        let mut last = (side, at);
        while hand > 0 {
            at += 1;
            if at == self.pits[side].len() {
                if side == self.side {
                    next.stores[side] += 1;
                    hand -= 1;
                    last = (side, at);
                }
                side = 1 - side;
                at = 0;
                if hand == 0 {
                    break;
                }
            }
            next.pits[side][at] += 1;
            hand -= 1;
            last = (side, at);
        }
        let (side, at) = last;
        let in_store = at == self.pits[0].len();
        if side == self.side && !in_store && next.pits[side][at] == 1 {
            let opposite = self.pits[0].len() - 1 - at;
            let taken = next.pits[1 - side][opposite];
            if taken > 0 {
                next.stores[side] += taken + 1;
                next.pits[side][at] = 0;
                next.pits[1 - side][opposite] = 0;
            }
        }
        if !in_store {
            next.side = 1 - self.side;
        }
        if next.over() {
            for side in 0..2 {
                next.stores[side] += next.pits[side].drain(..).sum::<u32>();
                next.pits[side] = vec![0; self.pits[0].len()];
            }
        }
        next
    }

    fn margin(&self) -> i32 {
        self.stores[0] as i32 - self.stores[1] as i32
    }

    fn text(&self) -> String {
        let list = |pits: Vec<&u32>| pits.iter().map(ToString::to_string).collect::<Vec<_>>().join(",");
        let side = if self.over() { "over" } else { ["south", "north"][self.side] };
        let (north, south) = (self.pits[1].iter().rev().collect(), self.pits[0].iter().collect());
        format!("{}/{}/{}:{}/{side}", list(north), list(south), self.stores[1], self.stores[0])
    }
}

/// The margin that the side to move still gains under best play: every line, each position once.
fn solve(board: &Plain, known: &mut HashMap<(usize, [Vec<u32>; 2]), i32>) -> i32 {
    if board.over() {
        return 0;
    }
    let key = (board.side, board.pits.clone());
    if let Some(value) = known.get(&key) {
        return *value;
    }
    let sign = |side: usize| if side == 0 { 1 } else { -1 };
    let value = board
        .moves()
        .into_iter()
        .map(|pit| {
            let next = board.play(pit);
            let gained = sign(board.side) * (next.margin() - board.margin());
            let rest = solve(&next, known);
            gained + if next.side == board.side { rest } else { -rest }
        })
        .max()
        .expect("a board that is not over has a move");
    known.insert(key, value);
    value
}

fn exact(pits: usize, seeds: u32) -> i32 {
    let start = Plain::start(pits, seeds);
    solve(&start, &mut HashMap::new())
}

fn inquiry(pits: usize, seeds: u32, position: Option<String>, kind: &str, knobs: &Knobs) -> Inquiry {
    let registry = registry();
    let game = registry.game("sowing").unwrap();
    let rules = Knobs::default().with("pits", pits as f64).with("seeds", f64::from(seeds));
    let sheet = game.agents().iter().find(|sheet| sheet.name == kind).unwrap();
    Inquiry {
        place: Place { rules: rules.resolve(&game.sheet().rules).unwrap(), level: "board".into(), seed: 1, position },
        kind: kind.into(),
        knobs: knobs.resolve(&sheet.knobs).unwrap(),
        seat: None,
        layers: 1,
    }
}

#[test]
fn exact_margins_agree_with_a_plain_solver() {
    let registry = registry();
    let game = registry.game("sowing").unwrap();
    let deep = Knobs::default().with("depth", 200.0);
    for pits in 1..=4 {
        for seeds in (1..=8).filter(|seeds| pits as u32 * seeds <= 8) {
            let explained = game.explain(&inquiry(pits, seeds, None, "minimax", &deep)).unwrap();
            let thoughts = explained.thoughts.unwrap();
            assert!(thoughts.spent.exact, "{pits} x {seeds}");
            assert_eq!(thoughts.options[0].value, f64::from(exact(pits, seeds)), "{pits} x {seeds}");
        }
    }
}

#[test]
#[ignore = "minutes: all boards of up to 12 seeds a side"]
fn exact_margins_agree_up_to_twelve_seeds_a_side() {
    let registry = registry();
    let game = registry.game("sowing").unwrap();
    let deep = Knobs::default().with("depth", 200.0).with("table", 1024.0);
    for pits in 1..=8 {
        for seeds in (1..=8).filter(|seeds| (9..=12).contains(&(pits as u32 * seeds))) {
            let start = std::time::Instant::now();
            let explained = game.explain(&inquiry(pits, seeds, None, "minimax", &deep)).unwrap();
            let thoughts = explained.thoughts.unwrap();
            let took = start.elapsed();
            let plain = exact(pits, seeds);
            println!("{pits} x {seeds}: {plain} ({:?} against {:?}, {} states)", took, start.elapsed() - took, thoughts.spent.nodes);
            assert!(thoughts.spent.exact, "{pits} x {seeds}");
            assert_eq!(thoughts.options[0].value, f64::from(plain), "{pits} x {seeds}");
        }
    }
}
