//! Q-learning with a network, replay and double targets (DQN; Mnih et al. 2015, van Hasselt, Guez & Silver 2016).

use inkpot_core::{Chance, Intent};
use serde::{Deserialize, Serialize};

use super::environment::{Bench, Diverged, End, Environment, Learned};
use super::replay::{Memory as Moment, Replay};
use super::scale::Normaliser;
use crate::{Activation, Adam, Dense, Memory, Pass, largest, shorten};

const DECISIONS: u64 = 1;
const DRAWS: u64 = 2;
const WEIGHTS: u64 = 3;
/// Gradients that are longer are shortened to this.
const MOST_GRADIENT: f64 = 10.0;

/// Settings of a DQN learner.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct DqnSettings {
    /// Decisions that are kept to learn from again.
    pub replay: usize,
    /// Decisions before it begins to learn.
    pub first: usize,
    /// Decisions from one step along the gradient to the next.
    pub every: usize,
    /// Kept decisions of a step along the gradient.
    pub minibatch: usize,
    /// Decisions after which the network that gives the targets catches up.
    pub target_every: usize,
    /// The discount: the worth of a reward one decision later, 0 to 1.
    pub discount: f64,
    /// Length of a step along the gradient at first.
    pub rate: f64,
    /// Its share that is left at the end.
    pub rate_left: f64,
    /// Share of the decisions that are random at the end; at first all are.
    pub explore: f64,
    /// Share of the whole way after which it is reached.
    pub explore_until: f64,
}

impl Default for DqnSettings {
    fn default() -> Self {
        Self {
            replay: 20_000,
            first: 1_000,
            every: 4,
            minibatch: 64,
            target_every: 500,
            discount: 0.99,
            rate: 1e-3,
            rate_left: 0.1,
            explore: 0.05,
            explore_until: 0.3,
        }
    }
}

/// A learner under way.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Dqn {
    settings: DqnSettings,
    seed: u64,
    brain: Brain,
    running: Vec<f64>,
    benches: Vec<Bench>,
    replay: Replay,
    steps: u64,
}

/// The learned networks.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
struct Brain {
    online: Dense,
    /// The network that gives the targets.
    target: Dense,
    adam: Adam,
    observed: Normaliser,
    /// The scale of discounted returns, by which rewards are divided.
    returns: Normaliser,
}

impl Dqn {
    /// A learner with a network of these hidden layers, which reads this many figures and chooses among this many
    /// options, in this many environments.
    #[must_use]
    pub fn new(
        settings: DqnSettings,
        inputs: usize,
        options: usize,
        hidden: &[usize],
        activation: Activation,
        environments: usize,
        seed: u64,
    ) -> Self {
        let sizes = [inputs].into_iter().chain(hidden.iter().copied()).chain([options]).collect();
        let online = Dense::drawn(sizes, activation, &mut Chance::named(seed, &[WEIGHTS]));
        Self {
            brain: Brain {
                adam: Adam::new(online.parameters().len()),
                target: online.clone(),
                online,
                observed: Normaliser::new(inputs),
                returns: Normaliser::new(1),
            },
            running: vec![0.0; environments],
            benches: Bench::row(environments),
            replay: Replay::new(settings.replay, inputs),
            steps: 0,
            settings,
            seed,
        }
    }

    /// Decisions so far.
    #[must_use]
    pub fn steps(&self) -> u64 {
        self.steps
    }

    /// Returns the learned network for plain observations: it gives the value of each option, in units of reward.
    #[must_use]
    pub fn policy(&self) -> Dense {
        let mut network = self.brain.observed.inside(&self.brain.online);
        let sizes = network.sizes().to_vec();
        let last = (sizes[sizes.len() - 2] + 1) * sizes[sizes.len() - 1];
        let (parameters, sd) = (network.parameters_mut(), self.brain.returns.sd(0) as f32);
        let from = parameters.len() - last;
        parameters[from..].iter_mut().for_each(|x| *x *= sd);
        network
    }

    /// Brings environments that were made anew to where they were.
    pub fn restore(&self, environments: &mut [impl Environment]) {
        for (bench, environment) in self.benches.iter().zip(environments) {
            bench.restore(environment, 0);
        }
    }

    /// Decides `turns` times in every environment and learns on the way. `whole` is the number of decisions of the
    /// whole training, over which the rate and the exploration fall. Errs where a number becomes infinite or none; then
    /// nothing of this call stands in the networks.
    ///
    /// # Panics
    /// When there are not as many environments as it was made for.
    pub fn learn(
        &mut self,
        environments: &mut [impl Environment],
        turns: usize,
        whole: u64,
    ) -> Result<Learned, Diverged> {
        assert_eq!(environments.len(), self.benches.len(), "a learner keeps its environments");
        let options = self.brain.online.sizes()[self.brain.online.sizes().len() - 1];
        let mut learned = Learned { taken: vec![0; options], ..Learned::default() };
        let before = self.brain.clone();
        let mut work = Work::default();
        let mut losses = (0.0, 0_u64);
        for _ in 0..turns {
            for (number, environment) in environments.iter_mut().enumerate() {
                self.decide(environment, number, whole, &mut work, &mut learned);
                if self.replay.len() >= self.settings.first && self.steps.is_multiple_of(self.settings.every as u64) {
                    losses.0 += self.improve(whole, &mut work);
                    losses.1 += 1;
                }
                if self.steps.is_multiple_of(self.settings.target_every as u64) {
                    self.brain.target.clone_from(&self.brain.online);
                }
            }
        }
        learned.loss = losses.0 / f64::from(u32::try_from(losses.1.max(1)).unwrap_or(u32::MAX));
        if !learned.loss.is_finite() || !self.brain.online.parameters().iter().copied().all(f32::is_finite) {
            self.brain = before;
            return Err(Diverged { steps: self.steps });
        }
        Ok(learned)
    }

    /// One decision in one environment, which is kept.
    fn decide(
        &mut self,
        environment: &mut impl Environment,
        number: usize,
        whole: u64,
        work: &mut Work,
        learned: &mut Learned,
    ) {
        let DqnSettings { explore, explore_until, discount, .. } = self.settings;
        let mut chance = Chance::named(self.seed, &[DECISIONS, self.steps]);
        let bench = &mut self.benches[number];
        bench.begin(environment, number, self.running.len());
        environment.observe(&mut work.before);
        self.brain.observed.see(&work.before);
        let gone = (self.steps as f64 / (explore_until * whole as f64).max(1.0)).min(1.0);
        let option = if chance.happens(1.0 - (1.0 - explore) * gone) {
            chance.below(learned.taken.len())
        } else {
            work.scaled.clear();
            work.scaled.extend_from_slice(&work.before);
            self.brain.observed.ready().scale(&mut work.scaled);
            largest(self.brain.online.forward(&work.scaled, &mut work.memory))
        };
        learned.taken[option] += 1;
        let (step, ended) = bench.step(environment, Intent::Option(option));
        environment.observe(&mut work.after);
        let running = &mut self.running[number];
        *running = discount * *running + step.reward;
        self.brain.returns.see(&[*running as f32]);
        if let Some(episode) = ended {
            *running = 0.0;
            learned.episodes.push(episode);
        }
        self.replay.add(&Moment {
            before: &work.before,
            after: &work.after,
            option,
            reward: step.reward as f32,
            follows: step.end != Some(End::Over),
        });
        self.steps += 1;
        learned.steps += 1;
    }

    /// One step along the gradient of the Huber loss of drawn decisions; gives the mean loss.
    fn improve(&mut self, whole: u64, work: &mut Work) -> f64 {
        let DqnSettings { minibatch, discount, rate, rate_left, .. } = self.settings;
        let rate = rate * (1.0 - (1.0 - rate_left) * (self.steps as f64 / whole.max(1) as f64).min(1.0));
        let mut chance = Chance::named(self.seed, &[DRAWS, self.steps]);
        let factor = (1.0 / self.brain.returns.sd(0)) as f32;
        let Work { befores, afters, rows, slopes, gradient, pass, other, .. } = work;
        befores.clear();
        afters.clear();
        rows.clear();
        for _ in 0..minibatch {
            let memory = self.replay.draw(&mut chance);
            befores.extend_from_slice(memory.before);
            afters.extend_from_slice(memory.after);
            rows.push((memory.option, memory.reward * factor, memory.follows));
        }
        let ready = self.brain.observed.ready();
        ready.scale(befores);
        ready.scale(afters);
        let options = self.brain.online.sizes()[self.brain.online.sizes().len() - 1];
        let next = other.forward(&self.brain.target, afters).to_vec();
        // The network itself says what is best after, and the other what that is worth.
        let best: Vec<usize> = other.forward(&self.brain.online, afters).chunks_exact(options).map(largest).collect();
        let outputs = pass.forward(&self.brain.online, befores);
        slopes.clear();
        slopes.resize(outputs.len(), 0.0);
        let mut loss = 0.0;
        for (sample, &(option, reward, follows)) in rows.iter().enumerate() {
            let later = if follows { discount as f32 * next[sample * options + best[sample]] } else { 0.0 };
            let off = outputs[sample * options + option] - reward - later;
            loss += f64::from(if off.abs() <= 1.0 { 0.5 * off * off } else { off.abs() - 0.5 });
            slopes[sample * options + option] = off.clamp(-1.0, 1.0) / minibatch as f32;
        }
        gradient.clear();
        gradient.resize(self.brain.online.parameters().len(), 0.0);
        pass.backward(&self.brain.online, slopes, gradient);
        shorten(&mut [gradient], MOST_GRADIENT);
        self.brain.adam.step(self.brain.online.parameters_mut(), gradient, rate);
        loss / minibatch as f64
    }
}

/// Buffers.
#[derive(Default)]
struct Work {
    memory: Memory,
    before: Vec<f32>,
    after: Vec<f32>,
    scaled: Vec<f32>,
    befores: Vec<f32>,
    afters: Vec<f32>,
    rows: Vec<(usize, f32, bool)>,
    slopes: Vec<f32>,
    gradient: Vec<f32>,
    pass: Pass,
    other: Pass,
}
