//! Two poles on a cart, balanced without seeing how fast anything moves (Wieland 1991; Gruau, Whitley & Pyeatt 1996).
//! Stanley & Miikkulainen (2002) report 33,184 networks on average over 20 runs of a population of 1,000, with the
//! fitness and the test of generalisation of Gruau et al.: 200 of 625 starts, each held for 1,000 steps.

use inkpot_learn::{Evolver, Genome, Judged, Memory, Network, Topology, TopologySettings};

/// Place and speed of the cart, angle and turning of each pole.
type State = [f64; 6];

const TRACK_M: f64 = 2.4;
const FALLEN: f64 = 36.0 * std::f64::consts::PI / 180.0;
/// One step, integrated in two halves.
const STEP_S: f64 = 0.01;

/// How the state changes under a force.
fn slope(state: &State, force: f64) -> State {
    const GRAVITY: f64 = -9.8;
    const CART_KG: f64 = 1.0;
    const POLES: [(f64, f64); 2] = [(0.5, 0.1), (0.05, 0.01)];
    const HINGE: f64 = 0.000_002;
    let mut pushed = force;
    let mut mass = CART_KG;
    let mut parts = [(0.0, 0.0); 2];
    for (pole, (half, kg)) in POLES.into_iter().enumerate() {
        let (angle, turning) = (state[2 + 2 * pole], state[3 + 2 * pole]);
        let (sin, cos) = angle.sin_cos();
        let friction = HINGE * turning / (kg * half);
        pushed += kg * half * turning * turning * sin + 0.75 * kg * cos * (friction + GRAVITY * sin);
        mass += kg * (1.0 - 0.75 * cos * cos);
        parts[pole] = (cos, GRAVITY * sin + friction);
    }
    let speeding = pushed / mass;
    let turn = |pole: usize| -0.75 * (speeding * parts[pole].0 + parts[pole].1) / POLES[pole].0;
    [state[1], speeding, state[3], turn(0), state[5], turn(1)]
}

/// One step by the method of Runge and Kutta of fourth order.
fn stepped(state: &State, force: f64) -> State {
    let moved = |by: &State, share: f64| -> State { std::array::from_fn(|i| state[i] + share * STEP_S * by[i]) };
    let a = slope(state, force);
    let b = slope(&moved(&a, 0.5), force);
    let c = slope(&moved(&b, 0.5), force);
    let d = slope(&moved(&c, 1.0), force);
    std::array::from_fn(|i| state[i] + STEP_S / 6.0 * (a[i] + 2.0 * b[i] + 2.0 * c[i] + d[i]))
}

/// How long a network balances, and how much it sways at the end of that.
fn balanced(network: &Network, start: State, most: usize) -> (usize, f64) {
    let mut memory = Memory::default();
    let mut state = start;
    let mut sway = Vec::new();
    for step in 0..most {
        let inputs = [state[0] / TRACK_M, state[2] / FALLEN, state[4] / FALLEN].map(|x| x as f32);
        let force = 10.0 * f64::from(network.forward(&inputs, &mut memory)[0]);
        state = stepped(&stepped(&state, force), force);
        sway.push(state[..4].iter().map(|x| x.abs()).sum::<f64>());
        if state[0].abs() > TRACK_M || state[2].abs() > FALLEN || state[4].abs() > FALLEN {
            return (step, sway.iter().rev().take(100).sum());
        }
    }
    (most, sway.iter().rev().take(100).sum())
}

const USUAL: State = [0.0, 0.0, 4.5 * std::f64::consts::PI / 180.0, 0.0, 0.0, 0.0];

/// A tenth for the time it lasts, the rest for being at rest then (Gruau et al.).
fn fitness(network: &Network) -> f64 {
    let (steps, sway) = balanced(network, USUAL, 1000);
    let still = if steps < 100 { 0.0 } else { 0.75 / sway };
    0.1 * steps as f64 / 1000.0 + 0.9 * still
}

/// The starts of the test, of 625, from which it balances.
fn generalises(network: &Network) -> usize {
    let shares = [0.05, 0.25, 0.5, 0.75, 0.95];
    let mut held = 0;
    for [a, b, c, d] in (0..625).map(|i| [i / 125, i / 25 % 5, i / 5 % 5, i % 5].map(|place| shares[place])) {
        let start = [
            a * 4.32 - 2.16,
            b * 2.7 - 1.35,
            c * 0.125_663_70 - 0.062_831_85,
            d * 0.300_196_84 - 0.150_098_42,
            0.0,
            0.0,
        ];
        held += usize::from(balanced(network, start, 1000).0 == 1000);
    }
    held
}

fn settings() -> TopologySettings {
    TopologySettings {
        population: 1000,
        inputs: 3,
        outputs: 1,
        recurrent: true,
        add_node: 0.03,
        add_link: 0.3,
        mutation_rate: 0.8,
        mutation_strength: 1.5,
        species: 15,
        pressure: 3.0,
        weight_distance: 3.0,
        renew: true,
    }
}

/// Networks that were tried until one balances for 100,000 steps and passes the test; none after 150 generations.
fn networks(seed: u64) -> Option<u64> {
    let mut search = Evolver::Topology(Box::new(Topology::new(settings(), seed)));
    let mut tried = 0;
    for _ in 0..150 {
        let graphs = search.ask().into_iter().map(|genome| match genome {
            Genome::Graph(graph) => Network::Graph(graph),
            _ => unreachable!("it searches graphs"),
        });
        let graphs: Vec<Network> = graphs.collect();
        let judged: Vec<f64> = graphs.iter().map(fitness).collect();
        tried += graphs.len() as u64;
        let best = (0..graphs.len()).max_by(|a, b| judged[*a].total_cmp(&judged[*b])).unwrap();
        if balanced(&graphs[best], USUAL, 100_000).0 == 100_000 && generalises(&graphs[best]) >= 200 {
            return Some(tried);
        }
        search.tell(&judged.into_iter().map(Judged::of).collect::<Vec<_>>());
    }
    None
}

/// Evolves with each of these seeds; all succeed. Gives the networks tried on average.
fn mean_networks(seeds: std::ops::Range<u64>) -> f64 {
    let count = seeds.end - seeds.start;
    let (odd, even): (Vec<u64>, Vec<u64>) = seeds.partition(|seed| seed % 2 == 1);
    let sum = |seeds: Vec<u64>| {
        seeds.into_iter().map(|seed| networks(seed).unwrap_or_else(|| panic!("seed {seed} finds none"))).sum::<u64>()
    };
    let tried = std::thread::scope(|scope| {
        let other = scope.spawn(move || sum(odd));
        sum(even) + other.join().unwrap()
    });
    tried as f64 / count as f64
}

#[test]
fn a_pole_that_nobody_pushes_falls() {
    let still = |state: State| (0..100).fold(state, |state, _| stepped(&state, 0.0));
    let after = still([0.0, 0.0, 0.05, 0.0, 0.0, 0.0]);
    assert!(after[2] > 0.2, "{after:?}");
    assert_eq!(still([0.0; 6]), [0.0; 6]);
}

#[test]
fn topology_evolution_balances_two_poles() {
    mean_networks(101..105);
}

#[test]
#[ignore = "the full form of the test above"]
fn topology_evolution_balances_two_poles_with_about_the_published_networks() {
    let mean = f64::midpoint(mean_networks(101..141), mean_networks(201..241));
    println!("{mean:.0} networks on average");
    // Eighty seeds give the mean to about 3,000 networks, the published twenty no better.
    assert!(mean <= 1.1 * 33_184.0, "{mean}");
}
