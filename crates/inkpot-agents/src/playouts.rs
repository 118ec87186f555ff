//! The kind `playouts`: flat Monte Carlo. Every option is played on equally often; the best mean is taken.

use crate::budget::{self, Budget, Meter};
use crate::limits::Graded;
use crate::value_weights::ValueWeights;
use inkpot_core::{
    Agent, AgentKind, Appraise, Chance, Choices, GaveUp, Imagine, Knob, Knobs, Options, Pace, Seat, Sight, Spent,
    Thoughts, Weighed,
};

use crate::rollout::{Playout, Roller};

/// The kind `playouts` for any game that can be imagined. Values are points shares, 0 to 1.
/// `weights` are the knobs of the game's value of a state, in its order.
pub fn playouts<G: Options + Imagine + Appraise + 'static>(weights: &[Knob]) -> AgentKind<G> {
    let kind = AgentKind::new("playouts", "plays out every option many times and takes the one that does best")
        .knob(budget::iterations("iterations", 300, "playouts for each decision, spread evenly over the options"))
        .knob(budget::nodes(10_000))
        .knob(budget::millis())
        .knob(Playout::knob())
        .knob(Playout::length_knob())
        .knob(Knob::choice("ties", &["chance", "first"]).help("which of equally good options it takes"));
    let weights = ValueWeights::of(weights);
    weights
        .added_to(kind)
        .factory(move |knobs| {
            let traits = Traits::of(&weights, knobs);
            Box::new(move |_person| Box::new(Playouts::<G>::new(&traits)))
        })
        .graded_by_values()
}

struct Traits {
    budget: Budget,
    playout: Playout,
    length: u32,
    ties_first: bool,
    weights: Vec<f64>,
}

impl Traits {
    fn of(weights: &ValueWeights, knobs: &Knobs) -> Self {
        Self {
            budget: Budget::read(knobs, "iterations"),
            playout: Playout::of(knobs.word("playout")),
            length: knobs.number("length") as u32,
            ties_first: knobs.word("ties") == "first",
            weights: weights.read(knobs),
        }
    }
}

struct Playouts<G: Options> {
    budget: Budget,
    ties_first: bool,
    seat: Seat,
    chance: Chance,
    roller: Roller<G>,
    meter: Meter,
    options: Vec<G::Action>,
    /// By option: number and sum of its playouts.
    tried: Vec<(u64, f64)>,
    looking_at: Option<usize>,
}

impl<G: Options + Imagine + Appraise> Playouts<G> {
    fn new(traits: &Traits) -> Self {
        Self {
            budget: traits.budget,
            ties_first: traits.ties_first,
            seat: 0,
            chance: Chance::from_seed(0),
            roller: Roller::new(traits.playout, traits.length, traits.weights.clone()),
            meter: Meter::free(),
            options: Vec::new(),
            tried: Vec::new(),
            looking_at: None,
        }
    }

    fn play(&mut self, mut state: G, option: usize, chance: &mut Chance, gains: &mut Vec<f64>) {
        let mut choices = Choices::none(state.seats());
        state.acting().for_each(state.seats(), |other| choices.set(other, state.draw(other, chance)));
        choices.set(self.seat, self.options[option].clone());
        state.advance(&choices, chance);
        self.meter.advanced();
        self.roller.play(state, &mut self.meter, chance, gains);
        let (visits, sum) = &mut self.tried[option];
        *visits += 1;
        *sum += gains[self.seat];
    }

    fn mean(&self, option: usize) -> f64 {
        let (visits, sum) = self.tried[option];
        sum / visits as f64
    }
}

impl<G: Options + Imagine + Appraise> Agent<G> for Playouts<G> {
    fn begin(&mut self, _seat: Seat, chance: Chance) {
        self.chance = chance;
    }

    fn choose(&mut self, sight: &Sight<'_, G>) -> Result<G::Action, GaveUp> {
        self.seat = sight.seat();
        sight.options(&mut self.options);
        self.tried.clear();
        self.tried.resize(self.options.len(), (0, 0.0));
        self.meter = Meter::start(self.budget, sight.halt());
        let mut ties = Chance::from_seed(self.chance.bits());
        let mut chance = Chance::from_seed(self.chance.bits());
        let mut gains = Vec::new();
        // A budget that does not go round leaves out options at random, not the last ones.
        let mut order: Vec<usize> = (0..self.options.len()).collect();
        chance.shuffle(&mut order);
        for &option in order.iter().cycle() {
            if self.meter.out {
                break;
            }
            let Some(state) = sight.imagine(&mut chance) else { break };
            self.looking_at = Some(option);
            self.play(state, option, &mut chance, &mut gains);
            self.meter.iterated();
        }
        let best = (0..self.options.len()).map(|option| self.mean(option)).fold(f64::NAN, f64::max);
        let mut tied: Vec<usize> = (0..self.options.len()).filter(|&option| self.mean(option) == best).collect();
        if tied.is_empty() {
            tied = (0..self.options.len()).collect();
        }
        let pick = if self.ties_first { 0 } else { ties.below(tied.len()) };
        Ok(self.options[tied[pick]].clone())
    }

    fn pace(&self) -> Pace {
        self.budget.pace()
    }

    fn spent(&self) -> Option<Spent> {
        Some(self.meter.spent(1))
    }

    fn thoughts(&self) -> Option<Thoughts<G::Action>> {
        let weigh = |option: usize| {
            Weighed::new(self.options[option].clone(), self.mean(option))
                .of_seat(self.seat)
                .deep(1)
                .tried(self.tried[option].0, self.meter.iterations)
        };
        let mut thoughts = Thoughts::of((0..self.tried.len()).map(weigh).collect());
        thoughts.looking_at =
            self.looking_at.and_then(|option| self.options.get(option)).cloned().into_iter().collect();
        thoughts.spent = self.spent().unwrap_or_default();
        Some(thoughts)
    }
}
