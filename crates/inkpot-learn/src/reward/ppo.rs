//! Proximal policy optimisation (PPO; Schulman et al. 2017).

use inkpot_core::Chance;
use serde::{Deserialize, Serialize};

use super::advantage::{Segment, advantages};
use super::environment::{Bench, Diverged, End, Environment, Learned};
use super::objective::{Drawn, Samples, Slopes, Sums, explained};
use super::policy::Actions;
use super::scale::Normaliser;
use crate::{Activation, Adam, Dense, Memory, Pass, shorten};

/// The names of streams: of decisions, of the order of samples and of the first weights.
const DECISIONS: u64 = 1;
const ORDER: u64 = 2;
const WEIGHTS: u64 = 3;
/// The last layer of an actor begins this much smaller, so that at first all decisions are about as likely.
const CALM: f32 = 0.01;
/// Rewards beyond this many standard deviations count as that many.
const MOST_REWARD: f64 = 10.0;
/// Logarithms of standard deviations of a value stay between these.
const LOG_SD: (f32, f32) = (-4.0, 1.0);

/// Settings of a PPO learner.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct PpoSettings {
    /// Decisions in each environment from one update to the next, at least 1.
    pub horizon: usize,
    /// The number of times that an update goes through them.
    pub epochs: usize,
    /// Decisions of a step along the gradient.
    pub minibatch: usize,
    /// The discount: the worth of a reward one decision later, 0 to 1.
    pub discount: f64,
    /// The reach of advantages, 0 (one decision) to 1 (to the end).
    pub trace: f64,
    /// The clip: the largest change of a decision's likelihood, as a share.
    pub clip: f64,
    /// Weight of the entropy of decisions, which keeps them apart.
    pub entropy: f64,
    /// Length of a step along the gradient at first.
    pub rate: f64,
    /// Its share that is left at the end.
    pub rate_left: f64,
    /// Gradients that are longer are shortened to this.
    pub most_gradient: f64,
    /// Standard deviation of a value at first.
    pub spread: f64,
}

impl Default for PpoSettings {
    fn default() -> Self {
        Self {
            horizon: 256,
            epochs: 4,
            minibatch: 256,
            discount: 0.99,
            trace: 0.95,
            clip: 0.2,
            entropy: 0.0,
            rate: 1e-3,
            rate_left: 0.1,
            most_gradient: 0.5,
            spread: 0.4,
        }
    }
}

/// A learner under way.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Ppo {
    settings: PpoSettings,
    actions: Actions,
    seed: u64,
    brain: Brain,
    /// The discounted return of each environment so far.
    running: Vec<f64>,
    benches: Vec<Bench>,
    updates: u64,
    steps: u64,
}

/// The learned networks.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
struct Brain {
    actor: Dense,
    critic: Dense,
    /// Logarithms of the standard deviations of values; empty of options.
    log_sd: Vec<f32>,
    actor_steps: Adam,
    critic_steps: Adam,
    observed: Normaliser,
    /// The scale of discounted returns, by which rewards are divided.
    returns: Normaliser,
}

/// The data between two updates, environment by environment.
#[derive(Default)]
struct Rollout {
    /// Observations as they were seen.
    observed: Vec<f32>,
    decided: Vec<f32>,
    likely: Vec<f32>,
    rewards: Vec<f32>,
    ended: Vec<bool>,
    /// Decisions whose successor is of another episode: their place, and the place of the observation after them.
    tails: Vec<(usize, usize)>,
    /// Observations there.
    tail_observed: Vec<f32>,
}

impl Ppo {
    /// A learner with networks of these hidden layers, which reads this many figures, in this many environments.
    #[must_use]
    pub fn new(
        settings: PpoSettings,
        inputs: usize,
        actions: Actions,
        hidden: &[usize],
        activation: Activation,
        environments: usize,
        seed: u64,
    ) -> Self {
        let sizes =
            |outputs: usize| [inputs].into_iter().chain(hidden.iter().copied()).chain([outputs]).collect::<Vec<_>>();
        let mut chance = Chance::named(seed, &[WEIGHTS]);
        let mut actor = Dense::drawn(sizes(actions.outputs()), activation, &mut chance);
        let critic = Dense::drawn(sizes(1), activation, &mut chance);
        let last = sizes(actions.outputs())[hidden.len()] * actions.outputs();
        let parameters = actor.parameters_mut();
        let from = parameters.len() - last - actions.outputs();
        parameters[from..].iter_mut().for_each(|x| *x *= CALM);
        let values = actions.outputs() - actions.options();
        Self {
            brain: Brain {
                actor_steps: Adam::new(actor.parameters().len() + values),
                critic_steps: Adam::new(critic.parameters().len()),
                log_sd: vec![libm::log(settings.spread) as f32; values],
                observed: Normaliser::new(inputs),
                returns: Normaliser::new(1),
                actor,
                critic,
            },
            running: vec![0.0; environments],
            benches: Bench::row(environments),
            updates: 0,
            steps: 0,
            settings,
            actions,
            seed,
        }
    }

    /// Decisions so far.
    #[must_use]
    pub fn steps(&self) -> u64 {
        self.steps
    }

    /// Decisions of one update.
    #[must_use]
    pub fn steps_an_update(&self) -> u64 {
        (self.settings.horizon * self.benches.len()) as u64
    }

    /// Returns the learned network for plain observations: it gives the logarithm of each option's chance, up to a
    /// constant, or the mean of each value.
    #[must_use]
    pub fn policy(&self) -> Dense {
        self.brain.observed.inside(&self.brain.actor)
    }

    /// Brings environments that were made anew to where they were.
    pub fn restore(&self, environments: &mut [impl Environment]) {
        let width = if self.actions.options() > 0 { 0 } else { self.actions.width() };
        for (bench, environment) in self.benches.iter().zip(environments) {
            bench.restore(environment, width);
        }
    }

    /// Steps all environments `horizon` times and learns from them, at `progress` (0 to 1) of the whole training. Errs
    /// if a number becomes infinite or undefined; earlier learning stands.
    ///
    /// # Panics
    /// When there are not as many environments as it was made for.
    pub fn learn(&mut self, environments: &mut [impl Environment], progress: f64) -> Result<Learned, Diverged> {
        assert_eq!(environments.len(), self.benches.len(), "a learner keeps its environments");
        let mut learned = Learned { taken: vec![0; self.actions.options()], ..Learned::default() };
        let before = self.brain.clone();
        let rollout = self.collect(environments, &mut learned);
        self.steps += learned.steps;
        let ready = self.brain.observed.ready();
        let inputs = self.brain.actor.sizes()[0];
        rollout.observed.chunks_exact(inputs).for_each(|row| self.brain.observed.see(row));
        let (mut observed, mut tail_observed) = (rollout.observed, rollout.tail_observed);
        ready.scale(&mut observed);
        ready.scale(&mut tail_observed);
        let mut pass = Pass::default();
        let values = pass.forward(&self.brain.critic, &observed).to_vec();
        let tails = pass.forward(&self.brain.critic, &tail_observed);
        let mut after: Vec<f32> = values.iter().skip(1).copied().chain([0.0]).collect();
        for place in (0..values.len()).filter(|place| rollout.ended[*place]) {
            after[place] = 0.0;
        }
        for &(place, tail) in &rollout.tails {
            after[place] = tails[tail];
        }
        let mut gains = Vec::with_capacity(values.len());
        for from in (0..values.len()).step_by(self.settings.horizon) {
            let range = from..from + self.settings.horizon;
            let segment = Segment {
                rewards: &rollout.rewards[range.clone()],
                values: &values[range.clone()],
                after: &after[range.clone()],
                ended: &rollout.ended[range],
            };
            advantages(&segment, self.settings.discount, self.settings.trace, &mut gains);
        }
        let targets: Vec<f32> = gains.iter().zip(&values).map(|(gain, value)| gain + value).collect();
        learned.explained = explained(&targets, &values);
        let samples = Samples {
            inputs,
            width: self.actions.width(),
            observed: &observed,
            decided: &rollout.decided,
            likely: &rollout.likely,
            gains: &gains,
            targets: &targets,
        };
        self.improve(&samples, progress, &mut learned);
        self.updates += 1;
        if !learned.loss.is_finite() || !self.brain.is_finite() {
            self.brain = before;
            return Err(Diverged { steps: self.steps });
        }
        Ok(learned)
    }

    /// Decides `horizon` times in every environment.
    fn collect(&mut self, environments: &mut [impl Environment], learned: &mut Learned) -> Rollout {
        let PpoSettings { horizon, discount, .. } = self.settings;
        let count = environments.len();
        let (mut rollout, ready) = (Rollout::default(), self.brain.observed.ready());
        let mut memory = Memory::default();
        let (mut observed, mut scaled, mut clamped) = (Vec::new(), Vec::new(), Vec::new());
        let mut rewards = Vec::with_capacity(count * horizon);
        for (number, (environment, bench)) in environments.iter_mut().zip(&mut self.benches).enumerate() {
            let mut chance = Chance::named(self.seed, &[DECISIONS, self.updates, number as u64]);
            for turn in 0..horizon {
                bench.begin(environment, number, count);
                environment.observe(&mut observed);
                rollout.observed.extend_from_slice(&observed);
                scaled.clear();
                scaled.extend_from_slice(&observed);
                ready.scale(&mut scaled);
                let outputs = self.brain.actor.forward(&scaled, &mut memory);
                let place = rollout.likely.len();
                let first = rollout.decided.len();
                let log_sd = &self.brain.log_sd;
                rollout.likely.push(self.actions.draw(outputs, log_sd, &mut chance, &mut rollout.decided));
                let intent = self.actions.intent(&rollout.decided[first..], &mut clamped);
                if let inkpot_core::Intent::Option(option) = intent {
                    learned.taken[option] += 1;
                }
                let (step, ended) = bench.step(environment, intent);
                rewards.push(step.reward);
                rollout.ended.push(ended.is_some());
                let running = &mut self.running[number];
                *running = discount * *running + step.reward;
                self.brain.returns.see(&[*running as f32]);
                if let Some(episode) = ended {
                    *running = 0.0;
                    learned.episodes.push(episode);
                }
                if step.end == Some(End::CutShort) || step.end.is_none() && turn + 1 == horizon {
                    environment.observe(&mut observed);
                    rollout.tails.push((place, rollout.tails.len()));
                    rollout.tail_observed.extend_from_slice(&observed);
                }
            }
        }
        learned.steps = rewards.len() as u64;
        let factor = 1.0 / self.brain.returns.sd(0);
        rollout.rewards = rewards.iter().map(|x| (x * factor).clamp(-MOST_REWARD, MOST_REWARD) as f32).collect();
        rollout
    }

    /// Goes through the samples and steps along the gradient.
    fn improve(&mut self, samples: &Samples, progress: f64, learned: &mut Learned) {
        let PpoSettings { epochs, minibatch, rate, rate_left, most_gradient, .. } = self.settings;
        let rate = rate * (1.0 - (1.0 - rate_left) * progress.clamp(0.0, 1.0));
        let count = samples.gains.len();
        let mut chance = Chance::named(self.seed, &[ORDER, self.updates]);
        let mut order: Vec<usize> = (0..count).collect();
        let (mut actor_pass, mut critic_pass, mut drawn) = (Pass::default(), Pass::default(), Drawn::default());
        let mut slopes = Slopes::default();
        let Brain { actor, critic, log_sd, actor_steps, critic_steps, .. } = &mut self.brain;
        let mut by_actor = vec![0.0_f32; actor.parameters().len() + log_sd.len()];
        let mut by_critic = vec![0.0_f32; critic.parameters().len()];
        let mut row = Vec::with_capacity(by_actor.len());
        for epoch in 0..epochs {
            chance.shuffle(&mut order);
            let mut sums = Sums::default();
            for batch in order.chunks(minibatch) {
                drawn.gather(samples, batch);
                by_actor.fill(0.0);
                by_critic.fill(0.0);
                let outputs = actor_pass.forward(actor, &drawn.observed);
                let (by_weights, by_sd) = by_actor.split_at_mut(actor.parameters().len());
                let clip = (self.settings.clip as f32, self.settings.entropy as f32);
                slopes.of_actor(self.actions, outputs, log_sd, &drawn, clip, by_sd, &mut sums);
                actor_pass.backward(actor, &slopes.given, by_weights);
                let values = critic_pass.forward(critic, &drawn.observed);
                slopes.of_critic(values, &drawn.targets, &mut sums);
                critic_pass.backward(critic, &slopes.given, &mut by_critic);
                shorten(&mut [&mut by_actor], most_gradient);
                shorten(&mut [&mut by_critic], most_gradient);
                // Weights and deviations are stepped together.
                row.clear();
                row.extend_from_slice(actor.parameters());
                row.extend_from_slice(log_sd);
                actor_steps.step(&mut row, &by_actor, rate);
                let (weights, deviations) = row.split_at(actor.parameters().len());
                actor.parameters_mut().copy_from_slice(weights);
                log_sd.iter_mut().zip(deviations).for_each(|(value, x)| *value = x.clamp(LOG_SD.0, LOG_SD.1));
                critic_steps.step(critic.parameters_mut(), &by_critic, rate);
            }
            if epoch + 1 == epochs {
                let mean = |sum: f64| sum / count as f64;
                learned.entropy = Some(mean(sums.entropy));
                learned.moved = Some(mean(sums.moved));
                learned.loss = mean(sums.loss);
            }
        }
    }
}

impl Brain {
    fn is_finite(&self) -> bool {
        let all = self.actor.parameters().iter().chain(self.critic.parameters()).chain(&self.log_sd);
        all.copied().all(f32::is_finite)
    }
}
