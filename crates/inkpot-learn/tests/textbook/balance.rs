//! A pole on a cart, balanced by pushes (Barto, Sutton & Anderson 1983): an episode pays 1 a step, and is cut short after
//! 500. Balanced means a mean of 475 over a hundred fresh episodes without chance.

use inkpot_core::{Chance, Intent};
use inkpot_learn::{Actions, Activation, Dense, Dqn, DqnSettings, End, Environment, Memory, Ppo, PpoSettings, Step};

const LONGEST: u32 = 500;

#[derive(Default)]
struct Pole {
    state: [f64; 4],
    steps: u32,
}

impl Environment for Pole {
    fn begin(&mut self, episode: u64) -> bool {
        let mut chance = Chance::named(77, &[episode]);
        self.state = [0; 4].map(|_: i32| chance.between(-0.05, 0.05));
        self.steps = 0;
        true
    }

    fn observe(&mut self, into: &mut Vec<f32>) {
        into.clear();
        into.extend(self.state.iter().map(|x| *x as f32));
    }

    fn step(&mut self, intent: Intent<'_>) -> Step {
        let push = match intent {
            Intent::Option(option) => [-10.0, 10.0][option],
            Intent::Values(values) => 10.0 * f64::from(values[0]),
        };
        let [x, v, angle, turn] = self.state;
        let (sin, cos) = angle.sin_cos();
        let part = (push + 0.05 * turn * turn * sin) / 1.1;
        let turned = (9.8 * sin - cos * part) / (0.5 * (4.0 / 3.0 - 0.1 * cos * cos / 1.1));
        let moved = part - 0.05 * turned * cos / 1.1;
        self.state = [x + 0.02 * v, v + 0.02 * moved, angle + 0.02 * turn, turn + 0.02 * turned];
        self.steps += 1;
        let over = self.state[0].abs() > 2.4 || self.state[2].abs() > 12.0_f64.to_radians();
        let end = if over { Some(End::Over) } else { (self.steps >= LONGEST).then_some(End::CutShort) };
        Step { reward: 1.0, end }
    }
}

/// Mean length of a hundred episodes that no learner met, each decided by what the network gives most.
fn balanced(network: &Dense, continuous: bool) -> f64 {
    let (mut memory, mut seen, mut sum) = (Memory::default(), Vec::new(), 0);
    for episode in 0..100 {
        let mut pole = Pole::default();
        pole.begin((1 << 40) + episode);
        loop {
            pole.observe(&mut seen);
            let outputs = network.forward(&seen, &mut memory);
            let values: Vec<f32> = outputs.iter().map(|x| x.clamp(-1.0, 1.0)).collect();
            let intent =
                if continuous { Intent::Values(&values) } else { Intent::Option(usize::from(outputs[1] > outputs[0])) };
            if pole.step(intent).end.is_some() {
                break;
            }
        }
        sum += pole.steps;
    }
    f64::from(sum) / 100.0
}

fn poles(count: usize) -> Vec<Box<dyn Environment>> {
    (0..count).map(|_| Box::new(Pole::default()) as Box<dyn Environment>).collect()
}

/// Decisions until the pole is balanced, looked at every 4,096 of them; none within `most`.
fn ppo(seed: u64, continuous: bool, most: u64) -> Option<u64> {
    let actions = if continuous { Actions::Values(1) } else { Actions::Options(2) };
    let settings = PpoSettings { horizon: 128, ..PpoSettings::default() };
    let mut learner = Ppo::new(settings, 4, actions, &[64, 64], Activation::Tanh, 8, seed);
    let mut environments = poles(8);
    while learner.steps() < most {
        learner.learn(&mut environments, learner.steps() as f64 / most as f64).unwrap();
        if (learner.steps() / 1024).is_multiple_of(4) && balanced(&learner.policy(), continuous) >= 475.0 {
            return Some(learner.steps());
        }
    }
    None
}

fn dqn(seed: u64, most: u64) -> Option<u64> {
    let settings = DqnSettings::default();
    let mut learner = Dqn::new(settings, 4, 2, &[64, 64], Activation::Relu, 1, seed);
    let mut environments = poles(1);
    while learner.steps() < most {
        learner.learn(&mut environments, 1000, most).unwrap();
        if balanced(&learner.policy(), false) >= 475.0 {
            return Some(learner.steps());
        }
    }
    None
}

#[test]
fn a_pole_is_balanced_by_every_seed() {
    for (name, most, found) in [
        ("PPO, two pushes", 100_000, [1, 2, 3].map(|seed| ppo(seed, false, 100_000))),
        ("PPO, any push", 150_000, [1, 2, 3].map(|seed| ppo(seed, true, 150_000))),
        ("DQN", 100_000, [1, 2, 3].map(|seed| dqn(seed, 100_000))),
    ] {
        println!("{name}: {found:?} of {most}");
        assert!(found.iter().all(Option::is_some), "{name}: {found:?} of {most}");
    }
}

/// A learner that is written down and read back between two updates, in environments made anew, learns the same.
#[test]
fn a_learner_goes_on_from_a_checkpoint_to_the_same_bits() {
    for actions in [Actions::Options(2), Actions::Values(1)] {
        let settings = PpoSettings { horizon: 100, minibatch: 64, ..PpoSettings::default() };
        let mut whole = Ppo::new(settings, 4, actions, &[16], Activation::Tanh, 4, 9);
        let mut cut = whole.clone();
        let mut environments = poles(4);
        for _ in 0..6 {
            whole.learn(&mut environments, 0.0).unwrap();
            cut = serde_json::from_str(&serde_json::to_string(&cut).unwrap()).unwrap();
            let mut anew = poles(4);
            cut.restore(&mut anew);
            cut.learn(&mut anew, 0.0).unwrap();
        }
        assert_eq!(whole, cut);
    }
    let settings = DqnSettings { first: 100, replay: 500, ..DqnSettings::default() };
    let mut whole = Dqn::new(settings, 4, 2, &[16], Activation::Relu, 3, 9);
    let mut cut = whole.clone();
    let mut environments = poles(3);
    for _ in 0..6 {
        whole.learn(&mut environments, 77, 10_000).unwrap();
        cut = serde_json::from_str(&serde_json::to_string(&cut).unwrap()).unwrap();
        let mut anew = poles(3);
        cut.restore(&mut anew);
        cut.learn(&mut anew, 77, 10_000).unwrap();
    }
    assert_eq!(whole, cut);
}

/// A reward that is no number ends the learning, and what was learned before stands.
#[test]
fn learning_that_diverges_says_so_and_keeps_what_it_knew() {
    struct Spoilt(Pole);

    impl Environment for Spoilt {
        fn begin(&mut self, episode: u64) -> bool {
            self.0.begin(episode)
        }

        fn observe(&mut self, into: &mut Vec<f32>) {
            self.0.observe(into);
            if self.0.steps == 9 {
                into[1] = f32::NAN;
            }
        }

        fn step(&mut self, intent: Intent<'_>) -> Step {
            self.0.step(intent)
        }
    }

    let settings = PpoSettings { horizon: 64, ..PpoSettings::default() };
    let mut learner = Ppo::new(settings, 4, Actions::Options(2), &[8], Activation::Tanh, 1, 3);
    let mut good: [Box<dyn Environment>; 1] = [Box::new(Pole::default())];
    learner.learn(&mut good, 0.0).unwrap();
    let before = learner.policy();
    let mut spoilt: [Box<dyn Environment>; 1] = [Box::new(Spoilt(Pole::default()))];
    learner.restore(&mut spoilt);
    let error = learner.learn(&mut spoilt, 0.0).unwrap_err();
    assert_eq!(error.to_string(), "learning diverged after 128 steps");
    assert_eq!(learner.policy(), before);
}
