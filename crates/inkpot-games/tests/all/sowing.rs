//! Sowing against a second, plain way of playing and solving it, and the searches against plain ones.

use std::collections::HashMap;

use inkpot_core::{
    Advance, Casting, Chance, Choices, Explained, Game, Halt, Knobs, LEARNER, Level, Noted, Options, ResponseRequest,
    Seating, Setting,
};
use inkpot_games::registry;
use inkpot_games::sowing::{Board, Sowing};
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

    /// What the mover of this board gained by the move that led to `next`.
    fn gained(&self, next: &Self) -> i32 {
        let gained = next.margin() - self.margin();
        if self.side == 0 { gained } else { -gained }
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
    let value = board.moves().into_iter().map(|pit| {
        let next = board.play(pit);
        let rest = solve(&next, known);
        board.gained(&next) + if next.side == board.side { rest } else { -rest }
    });
    let value = value.max().expect("a board that is not over has a move");
    known.insert(key, value);
    value
}

/// The same by bounds within a window, for boards with too many positions to visit each: what is known of a position
/// is an interval that its value lies in.
fn solve_within(board: &Plain, low: i32, high: i32, known: &mut HashMap<Vec<u8>, (i32, i32)>) -> i32 {
    if board.over() {
        return 0;
    }
    let key: Vec<u8> = board.pits.iter().flatten().chain([&(board.side as u32)]).map(|&seeds| seeds as u8).collect();
    let left: u32 = board.pits.iter().flatten().sum();
    let (least, most) = known.get(&key).copied().unwrap_or((-(left as i32), left as i32));
    if least >= high || least == most {
        return least;
    }
    if most <= low {
        return most;
    }
    let (start, end) = (low.max(least), high.min(most));
    let mut best = i32::MIN;
    // The pits next to the store first: these bank seeds at once.
    for pit in board.moves().into_iter().rev() {
        let next = board.play(pit);
        let gained = board.gained(&next);
        let from = start.max(best) - gained;
        let value = if next.side == board.side {
            gained + solve_within(&next, from, end - gained, known)
        } else {
            gained - solve_within(&next, gained - end, -from, known)
        };
        best = best.max(value);
        if best >= end {
            break;
        }
    }
    let (least, most) = if best >= end {
        (best, most)
    } else if best <= start {
        (least, best)
    } else {
        (best, best)
    };
    known.insert(key, (least, most));
    best
}

fn exact(pits: usize, seeds: u32) -> i32 {
    solve(&Plain::start(pits, seeds), &mut HashMap::new())
}

/// What minimax weighs at a position, or at the plain start.
fn explained(pits: usize, seeds: u32, position: Option<&str>, knobs: &Knobs) -> Explained {
    let registry = registry();
    let game = registry.game("sowing").unwrap();
    let rules = Knobs::default().with("pits", pits as f64).with("seeds", f64::from(seeds));
    let knobs = knobs.resolve(&game.agent("minimax").unwrap().knobs).unwrap();
    let setting = Setting {
        rules: rules.resolve(&game.sheet().rules).unwrap(),
        level: Level::named("board", Knobs::default()),
        cast: Casting::everywhere("minimax", &knobs, 2),
        seating: Seating::rotated(2),
        study_seed: 1,
        pairing: 0,
    };
    game.explain(&setting, position, None, 1).unwrap()
}

#[test]
fn exact_margins_agree_with_a_plain_solver() {
    let deep = Knobs::default().with("depth", 200.0);
    for pits in 1..=4 {
        for seeds in (1..=8).filter(|seeds| pits as u32 * seeds <= 8) {
            let explained = explained(pits, seeds, None, &deep);
            let thoughts = explained.thoughts.unwrap();
            assert!(thoughts.spent.exact, "{pits} x {seeds}");
            assert_eq!(thoughts.options[0].value, f64::from(exact(pits, seeds)), "{pits} x {seeds}");
        }
    }
}

#[test]
#[ignore = "minutes: all boards of 9 to 12 seeds a side"]
fn exact_margins_agree_up_to_twelve_seeds_a_side() {
    let deep = Knobs::default().with("depth", 200.0).with("table", 2048.0);
    for pits in 1..=8 {
        for seeds in (1..=8).filter(|seeds| (9..=12).contains(&(pits as u32 * seeds))) {
            let start = Plain::start(pits, seeds);
            let all = (2 * pits as u32 * seeds) as i32;
            let plain = solve_within(&start, -all, all, &mut HashMap::new());
            let explained = explained(pits, seeds, None, &deep);
            let thoughts = explained.thoughts.unwrap();
            println!("{pits} x {seeds}: {plain}, {} states", thoughts.spent.nodes);
            assert!(thoughts.spent.exact, "{pits} x {seeds}");
            assert_eq!(thoughts.options[0].value, f64::from(plain), "{pits} x {seeds}");
        }
    }
}

#[test]
fn the_two_plain_solvers_agree() {
    for (pits, seeds) in [(1, 5), (2, 3), (3, 2), (4, 2), (3, 3)] {
        let all = (2 * pits as u32 * seeds) as i32;
        let within = solve_within(&Plain::start(pits, seeds), -all, all, &mut HashMap::new());
        assert_eq!(within, exact(pits, seeds), "{pits} x {seeds}");
    }
}

/// The value of a board to its mover when just this many turns are looked ahead and the margin then stands: every line.
fn plain_minimax(board: &Plain, depth: u32) -> i32 {
    if board.over() || depth == 0 {
        return if board.side == 0 { board.margin() } else { -board.margin() };
    }
    let value = |pit| {
        let next = board.play(pit);
        let value = plain_minimax(&next, depth - 1);
        // Who is to move does not matter once the match is over, but how its margin is read does.
        if next.side == board.side { value } else { -value }
    };
    board.moves().into_iter().map(value).max().expect("a board that is not over has a move")
}

/// A board some random moves away from a start.
fn boards() -> impl Strategy<Value = Plain> {
    (2usize..=6, 1u32..=5, prop::collection::vec(0usize..8, 0..40)).prop_map(|(pits, seeds, picks)| {
        picks.into_iter().fold(Plain::start(pits, seeds), |board, pick| match board.moves().as_slice() {
            [] => board,
            moves => board.play(moves[pick % moves.len()]),
        })
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn every_move_leads_where_the_plain_rules_lead_and_no_seed_is_lost(board in boards()) {
        let game = Sowing::start(board.pits[0].len() as u8, 1).read_note(&board.text()).unwrap();
        let all = |text: &str| -> u32 { text.split(|c: char| !c.is_ascii_digit()).filter_map(|n| n.parse::<u32>().ok()).sum() };
        let mut options = Vec::new();
        if !board.over() {
            game.options(board.side, &mut options);
        }
        prop_assert_eq!(options.iter().map(|pit| usize::from(pit.0) - 1).collect::<Vec<_>>(), board.moves());
        for pit in options {
            let mut next = game;
            let mut choices = Choices::none(2);
            choices.set(board.side, pit);
            prop_assert_eq!(next.advance(&choices, &mut Chance::from_seed(0)), Advance::Fine);
            let plain = board.play(usize::from(pit.0) - 1);
            prop_assert_eq!(next.note(), plain.text());
            prop_assert_eq!(all(&next.note()), all(&board.text()));
            prop_assert_eq!(next.scores(), plain.stores.map(f64::from));
        }
    }

    #[test]
    fn every_opening_is_on_the_way_of_play(pits in 1u8..=8, seeds in 1u8..=8, plies in 0u32..=12, seed in 0u64..1000) {
        let game = Sowing::opened(Board::start(pits, seeds), plies, &mut Chance::from_seed(seed));
        prop_assert!(game.verdict().is_none());
        // What the plain start cannot give, no opening gives either.
        let total: u32 = (0..2).map(|side| u32::from(game.board().held(side)) + u32::from(game.board().store(side))).sum();
        prop_assert_eq!(total, 2 * u32::from(pits) * u32::from(seeds));
    }

    /// Also a test of the position text: boards go in and come out as such.
    #[test]
    fn every_option_is_valued_as_by_looking_at_every_line(board in boards(), depth in 1u32..=4) {
        let knobs = Knobs::default().with("depth", f64::from(depth)).with("hoard", 0.0);
        let explained = explained(board.pits[0].len(), 1, Some(&board.text()), &knobs);
        prop_assert_eq!(explained.position, Some(board.text()));
        prop_assert_eq!(explained.seat.is_none(), board.over());
        let options = explained.thoughts.map(|thoughts| thoughts.options).unwrap_or_default();
        prop_assert_eq!(options.len(), board.moves().len());
        for option in options {
            let pit = option.option.as_u64().unwrap() as usize - 1;
            let next = board.play(pit);
            let value = plain_minimax(&next, depth - 1);
            let value = if next.side == board.side { value } else { -value };
            prop_assert_eq!(option.value, f64::from(value), "pit {} of {}", pit + 1, board.text());
        }
    }
}

#[test]
fn what_is_best_against_one_who_never_errs_is_what_the_plain_solver_says() {
    let registry = registry();
    let game = registry.game("sowing").unwrap();
    let minimax = Knobs::default().with("depth", 64.0).resolve(&game.agent("minimax").unwrap().knobs).unwrap();
    let learner = Casting::new(LEARNER, "policy", Knobs::default());
    for (pits, seeds) in [(3, 3), (3, 2), (2, 3)] {
        let rules = Knobs::default().with("pits", pits as f64).with("seeds", f64::from(seeds));
        let setting = Setting {
            rules: rules.resolve(&game.sheet().rules).unwrap(),
            level: Level::named(game.sheet().levels[0].name.clone(), Knobs::default()),
            cast: vec![learner.clone(), Casting::new(1, "minimax", minimax.clone())],
            seating: Seating::rotated(2),
            study_seed: 1,
            pairing: 0,
        };
        let request = ResponseRequest { draws: 8, most_positions: 100_000, seed: 1, halt: Halt::never() };
        let response = game.best_response(&setting, &request).unwrap();
        let points = |margin: i32| f64::from(margin.signum() + 1) / 2.0;
        assert_eq!(response.start, [points(exact(pits, seeds)), points(-exact(pits, seeds))], "{pits} x {seeds}");
    }
}
