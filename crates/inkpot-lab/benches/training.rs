//! What a training costs: `cargo bench -p inkpot-lab --bench training`
//!
//! PPO with layers of 64 and 64 on regatta, a decision a tick: end to end on one thread and on two, beside the bare loop of
//! its matches, and beside the bare update of its networks; DQN with the same layers on piste, end to end. Taken in turns, so that a machine whose speed drifts treats all
//! alike; medians are printed.

use std::hint::black_box;
use std::time::Instant;

use inkpot_core::{Chance, GameEntry, Halt, Intent, KnobValue, Knobs, Spot};
use inkpot_lab::{
    AimDraft, EntrantDraft, MethodDraft, Results, SearchError, Seeks, SubjectDraft, TermDraft, Train, TrainDraft,
};
use inkpot_lab::{SearchJob, Threads, YardstickDraft, resolve_train, search};
use inkpot_learn::{Activation, Adam, Dense, Pass, shorten};

const ROUNDS: usize = 7;
const STEPS: u64 = 81_920;
const LAYERS: [usize; 2] = [64, 64];

/// DQN against a house fencer, a decision every six ticks.
fn dqn() -> Train {
    let mut draft = draft(1);
    draft.aim.game = "piste".into();
    draft.aim.level = None;
    draft.aim.subject.knobs = Knobs::default();
    draft.aim.method.name = Some("dqn".into());
    draft.aim.terms = vec![TermDraft { figure: "score_margin".into(), ..TermDraft::default() }];
    draft.aim.opponents = vec![EntrantDraft { agent: "heron".into(), ..EntrantDraft::default() }];
    resolve_train(&draft, &inkpot_games::registry()).expect("the draft is fine")
}

fn train(seeds: u64) -> Train {
    resolve_train(&draft(seeds), &inkpot_games::registry()).expect("the draft is fine")
}

fn draft(seeds: u64) -> TrainDraft {
    TrainDraft {
        aim: AimDraft {
            game: "regatta".into(),
            level: Some(inkpot_core::Level::named("triangle", Knobs::default())),
            seed: Some(1),
            seeds: Some(seeds),
            subject: SubjectDraft {
                agent: "policy".into(),
                knobs: Knobs::default().with("decide_every", 1.0),
                layers: Some(LAYERS.map(|width| width as f64).to_vec()),
                ..SubjectDraft::default()
            },
            method: MethodDraft { name: Some("ppo".into()), knobs: Knobs::default() },
            terms: vec![TermDraft { figure: "water_left_m".into(), weight: Some(-0.1), ..TermDraft::default() }],
            yardstick: YardstickDraft { every: Some(STEPS), matches: Some(1), ..YardstickDraft::default() },
            proof: Some(40),
            ..AimDraft::default()
        },
        steps: Some(STEPS),
        ..TrainDraft::default()
    }
}

/// Decisions a second, end to end.
fn whole(train: &Train, game: &dyn GameEntry, threads: usize) -> f64 {
    let mut searching = train.begin(game, None).expect("a search begins");
    let start = Instant::now();
    let halt = Halt::new();
    let job = SearchJob::new(train.work(game).expect("it has work"), game, &halt, String::new());
    search(searching.as_mut(), &job, &Threads(threads), &halt, &mut Results::new(), |_, _| Ok::<(), SearchError>(()))
        .expect("the training goes on to its end");
    (train.aim.seeds * STEPS) as f64 / start.elapsed().as_secs_f64()
}

/// Decisions a second of the matches alone, with what each pays.
fn bare_matches(game: &dyn GameEntry, setting: &inkpot_core::Setting) -> f64 {
    let mut lessons = game.lessons(setting).expect("the setting is one of the training");
    let mut rows = inkpot_core::Rows::new(game.sheet().measures.len());
    let mut observed = Vec::new();
    let mut chance = Chance::from_seed(3);
    let start = Instant::now();
    let (mut steps, mut block) = (0, 0);
    while steps < STEPS {
        lessons.begin(Spot { block, ..Spot::default() });
        block += 1;
        while !lessons.is_over() && steps < STEPS {
            lessons.observe(&mut observed);
            lessons.act(Intent::Values(&[chance.between(-1.0, 1.0) as f32]), 1);
            lessons.rows(&mut rows);
            black_box((&observed, &rows));
            steps += 1;
        }
    }
    STEPS as f64 / start.elapsed().as_secs_f64()
}

/// Decisions a second of the updates alone: the same passes of both networks, with the same steps.
fn bare_updates(inputs: usize, epochs: u64) -> f64 {
    const BATCH: usize = 256;
    let mut chance = Chance::from_seed(4);
    let mut networks = [0, 1].map(|_| Dense::drawn(vec![inputs, 64, 64, 1], Activation::Tanh, &mut chance));
    let observed: Vec<f32> = (0..BATCH * inputs).map(|_| chance.normal() as f32).collect();
    let mut pass = Pass::default();
    let mut adam = Adam::new(networks[0].parameters().len());
    let mut gradient = vec![0.0; networks[0].parameters().len()];
    let start = Instant::now();
    for _ in 0..epochs * STEPS / BATCH as u64 {
        for network in &mut networks {
            gradient.fill(0.0);
            let slopes: Vec<f32> = pass.forward(network, &observed).iter().map(|x| x / BATCH as f32).collect();
            pass.backward(network, &slopes, &mut gradient);
            shorten(&mut [&mut gradient], 0.5);
            adam.step(network.parameters_mut(), &gradient, 1e-6);
        }
    }
    black_box(&networks);
    STEPS as f64 / start.elapsed().as_secs_f64()
}

fn median(mut all: Vec<f64>) -> f64 {
    all.sort_by(f64::total_cmp);
    all[all.len() / 2]
}

fn main() {
    let registry = inkpot_games::registry();
    let game = registry.game("regatta").expect("the house games are registered");
    let (one, two) = (train(1), train(2));
    let epochs = one.method.knobs.get("epochs").and_then(KnobValue::number).unwrap_or(4.0) as u64;
    let inputs = game.features(&one.aim.ground.rules).expect("it has features").observation.len();
    let setting = one.samples(game).swap_remove(0);
    let (fencing, piste) = (dqn(), registry.game("piste").expect("the house games are registered"));
    let mut seen: [Vec<f64>; 5] = Default::default();
    for _ in 0..ROUNDS {
        let round = [
            whole(&one, game, 1),
            whole(&two, game, 2),
            bare_matches(game, &setting),
            bare_updates(inputs, epochs),
            whole(&fencing, piste, 1),
        ];
        seen.iter_mut().zip(round).for_each(|(all, x)| all.push(x));
    }
    let ratios = |a: usize, b: usize| median(seen[a].iter().zip(&seen[b]).map(|(a, b)| a / b).collect());
    let [single, double, matches, updates, fencing] = [0, 1, 2, 3, 4].map(|rate| median(seen[rate].clone()));
    println!("PPO on regatta, 64-64, a decision a tick, {epochs} epochs:");
    println!("  end to end, one thread         {single:>10.0} decisions a second");
    println!("  two repetitions, two threads   {double:>10.0} decisions a second");
    println!("  its matches alone              {matches:>10.0}, of which it reaches {:.0} %", 100.0 * ratios(0, 2));
    println!("  its updates alone              {updates:>10.0}, of which it reaches {:.0} %", 100.0 * ratios(0, 3));
    println!("DQN on piste, 64-64, a decision every six ticks:");
    println!("  end to end, one thread         {fencing:>10.0} decisions a second");
}
