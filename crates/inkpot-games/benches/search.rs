//! What do the searches cost above advancing states? `cargo bench -p inkpot-games --bench search`
//!
//! States of sowing a second: advanced by a search while it plays, and by bare loops that only list options, copy and
//! advance. The loops are the shapes that a search would have without its bookkeeping: for minimax every line to a
//! depth, for tree search random lines to the end of the match. Ratios are taken in turns, so that a machine whose speed
//! drifts treats both alike.
//!
//! And what exact values of all options cost above the search that found the best.

use std::hint::black_box;
use std::time::Instant;

use inkpot_core::{
    Acting, AgentKind, Chance, Choices, Factory, Game, Knobs, Laying, Level, MatchTable, Options, Person,
};
use inkpot_games::sowing::{Board, Pit, Sowing};

const PITS: u8 = 6;
const SEEDS: u8 = 4;
const OPENING: u32 = 4;
const ROUNDS: u64 = 21;

fn opened(seed: u64) -> Sowing {
    Sowing::opened(Board::start(PITS, SEEDS), OPENING, &mut Chance::from_seed(seed))
}

/// Every line to a depth; the states advanced.
struct EveryLine {
    choices: Choices<Pit>,
    chance: Chance,
    options: Vec<Vec<Pit>>,
}

impl EveryLine {
    fn walk(&mut self, state: &Sowing, depth: usize) -> u64 {
        let Acting::One(seat) = state.acting() else { return 0 };
        let mut options = std::mem::take(&mut self.options[depth]);
        options.clear();
        state.options(seat, &mut options);
        let mut nodes = 0;
        for &option in &options {
            let mut next = *state;
            self.choices.clear();
            self.choices.set(seat, option);
            next.advance(&self.choices, &mut self.chance);
            nodes += 1;
            if depth > 1 {
                nodes += self.walk(&next, depth - 1);
            } else {
                black_box(next.scores());
            }
        }
        self.options[depth] = options;
        nodes
    }
}

fn every_line(seed: u64) -> u64 {
    let depth = 7;
    let mut walk =
        EveryLine { choices: Choices::none(2), chance: Chance::from_seed(0), options: vec![Vec::new(); depth + 1] };
    walk.walk(&opened(seed), depth)
}

/// Random lines to the end of the match; the states advanced.
fn random_lines(seed: u64) -> u64 {
    let start = opened(seed);
    let mut chance = Chance::from_seed(seed);
    let mut choices = Choices::none(2);
    let mut nodes = 0;
    for _ in 0..4000 {
        let mut state = start;
        while let Acting::One(seat) = state.acting() {
            choices.clear();
            choices.set(seat, state.draw(seat, &mut chance));
            state.advance(&choices, &mut chance);
            nodes += 1;
        }
        black_box(state.scores());
    }
    nodes
}

/// Sums the states that the agents advance, and keeps the most memory that one held.
#[derive(Default)]
struct Nodes {
    sum: u64,
    most_bytes: u64,
}

fn made(kind: &AgentKind<Sowing>, knobs: &Knobs) -> Factory<Sowing> {
    let (rules, level) = (Knobs::default(), Level::named("plain", Knobs::default()));
    let laying = Laying { rules: &rules, level: &level, seats: 2, features: None };
    kind.made(knobs, &laying).expect("the knobs are within their ranges")
}

fn played(kind: &AgentKind<Sowing>, knobs: &Knobs, seed: u64) -> Nodes {
    let factory = made(kind, knobs);
    let mut table = MatchTable::new(opened(seed), Chance::from_seed(3));
    for seat in 0..2 {
        table.sit(factory(Person::new(Chance::from_seed(seat + 1))).expect("a house agent"), Chance::from_seed(seat));
    }
    let mut nodes = Nodes::default();
    let mut pending = Vec::new();
    loop {
        table.pending(&mut pending);
        let Some(&seat) = pending.first() else { break };
        table.turn().expect("sowing does not fall");
        let spent = table.players().spent(seat).unwrap_or_default();
        nodes.sum += spent.nodes;
        nodes.most_bytes = nodes.most_bytes.max(spent.memory_bytes);
    }
    nodes
}

fn searched(kind: &AgentKind<Sowing>, knobs: &Knobs, seed: u64) -> u64 {
    played(kind, knobs, seed).sum
}

fn memory(what: &str, kind: &AgentKind<Sowing>, knobs: &Knobs, mib: f64) {
    let held = played(kind, knobs, 1).most_bytes as f64 / 1_048_576.0;
    println!("{what}: {held:.2} MiB held of {mib} MiB allowed");
}

/// Seconds of the first decision of a match, with all options valued exactly or the best one alone.
fn decides(kind: &AgentKind<Sowing>, knobs: &Knobs, start: Sowing, layers: u32) -> f64 {
    let factory = made(kind, knobs);
    let mut table = MatchTable::new(start, Chance::from_seed(3));
    for seat in 0..2 {
        table.sit(factory(Person::new(Chance::from_seed(seat + 1))).expect("a house agent"), Chance::from_seed(seat));
    }
    if layers > 0 {
        table.reflect(layers);
    }
    let start = Instant::now();
    table.turn().expect("sowing does not fall");
    start.elapsed().as_secs_f64()
}

/// How many times a search takes with exact values of all options, taken in turns.
fn valued(what: &str, kind: &AgentKind<Sowing>, knobs: &Knobs, start: Sowing, rounds: usize) {
    let round = |_| decides(kind, knobs, black_box(start), 1) / decides(kind, knobs, black_box(start), 0);
    let mut ratios: Vec<f64> = (0..rounds).map(round).collect();
    ratios.sort_by(f64::total_cmp);
    let (low, high) = (ratios[rounds / 4], ratios[rounds - 1 - rounds / 4]);
    println!("{what}: {:.2} times (quartiles {low:.2} to {high:.2})", ratios[rounds / 2]);
}

fn nodes_a_second(run: impl Fn(u64) -> u64, seeds: std::ops::Range<u64>) -> f64 {
    let start = Instant::now();
    let nodes: u64 = seeds.map(|seed| black_box(run(black_box(seed)))).sum();
    nodes as f64 / start.elapsed().as_secs_f64()
}

fn ratio(what: &str, bare: impl Fn(u64) -> u64, search: impl Fn(u64) -> u64) {
    let mut rounds: Vec<(f64, f64, f64)> = (0..ROUNDS)
        .map(|round| {
            let by_hand = nodes_a_second(&bare, round..round + 2);
            let searched = nodes_a_second(&search, round..round + 2);
            (searched / by_hand, searched, by_hand)
        })
        .collect();
    rounds.sort_by(|a, b| a.0.total_cmp(&b.0));
    let (middle, quarter) = (rounds.len() / 2, rounds.len() / 4);
    let (ratio, searched, by_hand) = rounds[middle];
    println!(
        "{what}: {ratio:.2} times (quartiles {:.2} to {:.2}); {:.1} against {:.1} million states a second",
        rounds[quarter].0,
        rounds[rounds.len() - 1 - quarter].0,
        searched / 1e6,
        by_hand / 1e6
    );
}

fn main() {
    let minimax = inkpot_agents::minimax::<Sowing>(&Sowing::weights());
    let treesearch = inkpot_agents::treesearch_reusing::<Sowing>(&Sowing::weights());
    let set = |knob: &str, value: f64| Knobs::default().with(knob, value);
    for depth in [4.0, 8.0] {
        let knobs = set("depth", depth);
        ratio(&format!("minimax {depth} turns deep against every line"), every_line, |s| searched(&minimax, &knobs, s));
    }
    for iterations in [200.0, 5000.0] {
        let knobs = set("iterations", iterations);
        let what = format!("treesearch of {iterations} iterations against random lines");
        ratio(&what, random_lines, |s| searched(&treesearch, &knobs, s));
    }
    for depth in [8.0, 12.0] {
        let what = format!("minimax {depth} turns deep with all options valued, against the search alone");
        valued(&what, &minimax, &set("depth", depth), opened(1), 21);
    }
    let solved = Sowing::opened(Board::start(6, 2), 0, &mut Chance::from_seed(1));
    valued("the same, 6 pits and 2 seeds searched to the end", &minimax, &set("depth", 100.0), solved, 5);
    for mib in [1.0, 8.0, 32.0] {
        memory("minimax 13 turns deep, its table", &minimax, &set("depth", 13.0).with("table", mib), mib);
    }
    for mib in [0.25, 1.0] {
        let knobs = set("iterations", 20_000.0).with("tree", mib);
        memory("treesearch of 20000 iterations, its tree", &treesearch, &knobs, mib);
    }
}
