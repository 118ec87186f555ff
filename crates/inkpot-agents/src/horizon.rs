//! The kind `horizon`: evolves a plan over the coming turns, does its first action, and plans again.
//!
//! Rolling-horizon evolution (Perez, Samothrakis, Lucas & Rohlfshagen 2013) with a shift buffer: the rest of the last
//! plan is kept as a start. A steady population of plans, tournaments of two, uniform crossover.

use crate::budget::{self, Budget, Meter};
use crate::limits::Graded;
use crate::value_weights::ValueWeights;
use inkpot_core::{
    Agent, AgentKind, Appraise, Chance, Choices, Factory, GaveUp, Imagine, Knob, Knobs, Laying, Options, Pace, Person,
    Seat, Sight, Spent, Thoughts, Weighed, margin,
};

/// A plan is followed for at most this many ticks for each of its own actions, where others move in between.
const TICKS_AN_ACTION: u32 = 64;
/// Options told as thoughts, the best ones.
const TOLD: usize = 12;

/// The kind `horizon` for any game that can be imagined, continuous actions included. The others are expected to act
/// as the knob `opponent` says: idle, random, mirror (as the plan does), or like one of `models` (a kind or a preset
/// of it, at its defaults). Values are in score margin, gained from now on.
/// `weights` are the knobs of the game's value of a state, in its order.
pub fn horizon<G: Options + Imagine + Appraise + 'static>(weights: &[Knob], models: &[AgentKind<G>]) -> AgentKind<G> {
    let models: Vec<AgentKind<G>> = models.to_vec();
    let presets = |kind: &AgentKind<G>| {
        let presets = kind.sheet().presets.iter().map(|preset| preset.name.clone());
        std::iter::once(kind.sheet().name.clone()).chain(presets).collect::<Vec<_>>()
    };
    let names: Vec<String> = models.iter().flat_map(presets).collect();
    let opponents: Vec<&str> =
        ["random", "idle", "mirror"].into_iter().chain(names.iter().map(String::as_str)).collect();
    let kind = AgentKind::new("horizon", "evolves a plan for the coming turns and does its first action")
        .knob(budget::iterations("rollouts", 40, "plans tried for each decision"))
        .knob(budget::nodes(2_000))
        .knob(budget::millis())
        .knob(Knob::whole("length", 1..=500, 10).unit("actions").help("actions in a plan: how far it looks ahead"))
        .knob(Knob::whole("hold", 1..=120, 1).unit("ticks").help("ticks that it holds on to each action of its plan"))
        .knob(
            Knob::whole("population", 1..=64, 4)
                .unit("plans")
                .help("plans that new ones are bred from; with 1 only the best is changed"),
        )
        .knob(Knob::real("mutation", 0.0..=1.0, 0.3).help("probability that an action of a new plan is changed"))
        .knob(Knob::choice("keep", &["yes", "no"]).help("whether the rest of the last plan is tried first"))
        .knob(Knob::real("discount", 0.0..=1.0, 0.98).help("worth of a gain one action later, relative to one now"))
        .knob(Knob::choice("opponent", &opponents).help("how it expects the others to act"));
    let weights = ValueWeights::of(weights);
    weights
        .added_to(kind)
        .factory_for(move |knobs, laying| {
            let traits = Traits::of(&weights, knobs);
            let model = std::sync::Arc::new(Model::of(knobs.word("opponent"), &models, laying));
            Ok(Box::new(move |_person| Box::new(Horizon::<G>::new(traits.clone(), model.clone()))))
        })
        .graded_by_values()
}

#[derive(Clone)]
struct Traits {
    budget: Budget,
    length: usize,
    hold: u32,
    population: usize,
    mutation: f64,
    keep: bool,
    discount: f64,
    weights: Vec<f64>,
}

impl Traits {
    fn of(weights: &ValueWeights, knobs: &Knobs) -> Self {
        Self {
            budget: Budget::read(knobs, "rollouts"),
            length: knobs.number("length") as usize,
            hold: knobs.number("hold") as u32,
            population: knobs.number("population") as usize,
            mutation: knobs.number("mutation"),
            keep: knobs.word("keep") == "yes",
            discount: knobs.number("discount"),
            weights: weights.read(knobs),
        }
    }
}

/// A model of the other seats.
enum Model<G: Options> {
    Idle,
    Random,
    Mirror,
    Like(Factory<G>),
}

impl<G: Options + 'static> Model<G> {
    fn of(word: &str, models: &[AgentKind<G>], laying: &Laying) -> Self {
        match word {
            "idle" => return Self::Idle,
            "mirror" => return Self::Mirror,
            _ => {}
        }
        let like = models.iter().find_map(|kind| {
            if kind.sheet().name == word {
                return kind.made(&Knobs::default(), laying).ok();
            }
            let preset = kind.sheet().presets.iter().find(|preset| preset.name == word)?;
            kind.made(&preset.knobs, laying).ok()
        });
        like.map_or(Self::Random, Self::Like)
    }
}

/// A plan and the value of its last rollout.
#[derive(Clone)]
struct Plan<A> {
    actions: Vec<A>,
    value: f64,
}

struct Horizon<G: Options> {
    traits: Traits,
    model: std::sync::Arc<Model<G>>,
    seat: Seat,
    chance: Chance,
    meter: Meter,
    plans: Vec<Plan<G::Action>>,
    /// The rest of the plan being carried out.
    rest: Vec<G::Action>,
    /// Ticks that its first action is still held.
    held: u32,
    current: Option<G::Action>,
    /// First actions tried: how often, the best value, the plan that gave it.
    tried: Vec<(u64, Plan<G::Action>)>,
    looking_at: Vec<G::Action>,
    choices: Choices<G::Action>,
}

impl<G: Options + Imagine + Appraise> Horizon<G> {
    fn new(traits: Traits, model: std::sync::Arc<Model<G>>) -> Self {
        Self {
            traits,
            model,
            seat: 0,
            chance: Chance::from_seed(0),
            meter: Meter::free(),
            plans: Vec::new(),
            rest: Vec::new(),
            held: 0,
            current: None,
            tried: Vec::new(),
            looking_at: Vec::new(),
            choices: Choices::none(0),
        }
    }

    /// Evolves plans until the budget is spent; the best is first.
    fn plan(&mut self, sight: &Sight<'_, G>, chance: &mut Chance) {
        self.plans.clear();
        self.tried.clear();
        let Some(state) = sight.imagine(chance) else { return };
        self.choices = Choices::none(state.seats());
        while !self.meter.out {
            let mut actions = self.next_plan(&state, chance);
            // What a plan begins with has to be legal now: it may be chosen, told and drawn from as it stands.
            actions[0] = state.repair(self.seat, &actions[0]);
            let Some(state) = sight.imagine(chance) else { break };
            self.looking_at.clone_from(&actions);
            let value = self.roll(state, &actions, chance);
            self.meter.iterated();
            let plan = Plan { actions, value };
            self.note(&plan);
            self.keep(plan);
        }
    }

    /// A plan to try: the rest of the last one, then random ones until the population is full, then children.
    fn next_plan(&self, state: &G, chance: &mut Chance) -> Vec<G::Action> {
        if self.plans.is_empty() && self.traits.keep && !self.rest.is_empty() {
            let mut actions = self.rest.clone();
            while actions.len() < self.traits.length {
                actions.push(state.draw(self.seat, chance));
            }
            return actions;
        }
        if self.plans.len() < self.traits.population {
            return (0..self.traits.length).map(|_| state.draw(self.seat, chance)).collect();
        }
        let (mother, father) = (self.parent(chance), self.parent(chance));
        let sure = chance.below(self.traits.length);
        let child = |(at, (a, b)): (usize, (&G::Action, &G::Action))| {
            let gene = if chance.happens(0.5) { a } else { b };
            let changed = chance.happens(self.traits.mutation) || (at == sure && self.traits.mutation > 0.0);
            if !changed {
                gene.clone()
            } else if chance.happens(0.5) {
                state.nudge(self.seat, gene, chance)
            } else {
                state.draw(self.seat, chance)
            }
        };
        mother.actions.iter().zip(&father.actions).enumerate().map(child).collect()
    }

    fn parent(&self, chance: &mut Chance) -> &Plan<G::Action> {
        let (a, b) = (chance.below(self.plans.len()), chance.below(self.plans.len()));
        // Sorted: the smaller place is the better plan.
        &self.plans[a.min(b)]
    }

    /// Takes a plan into the population, best first; the worst leaves.
    fn keep(&mut self, plan: Plan<G::Action>) {
        let place = self.plans.partition_point(|other| other.value > plan.value);
        self.plans.insert(place, plan);
        self.plans.truncate(self.traits.population);
    }

    fn note(&mut self, plan: &Plan<G::Action>) {
        let Some(first) = plan.actions.first() else { return };
        match self.tried.iter_mut().find(|(_, best)| best.actions.first() == Some(first)) {
            Some((times, best)) => {
                *times += 1;
                if plan.value > best.value {
                    *best = plan.clone();
                }
            }
            None => self.tried.push((1, plan.clone())),
        }
    }

    /// Returns the discounted gain of a plan from a state.
    fn roll(&mut self, mut state: G, actions: &[G::Action], chance: &mut Chance) -> f64 {
        let mut others = self.others(&state, chance);
        let mut before = state.appraise(self.seat, &self.traits.weights);
        let (mut gained, mut weight) = (0.0, 1.0);
        let mut ticks = 0;
        for action in actions {
            let mut acted = 0;
            while acted < self.traits.hold && ticks < TICKS_AN_ACTION * self.traits.hold * actions.len() as u32 {
                let mut over = true;
                self.choices.clear();
                let Self { choices, seat, model, .. } = self;
                state.acting().for_each(state.seats(), |acting| {
                    over = false;
                    if acting == *seat {
                        acted += 1;
                        choices.set(acting, state.repair(acting, action));
                        return;
                    }
                    match (model.as_ref(), others.get_mut(acting).and_then(Option::as_mut)) {
                        (Model::Idle, _) => {}
                        (Model::Mirror, _) => choices.set(acting, state.repair(acting, action)),
                        (Model::Like(_), Some(other)) => {
                            let choice = other.choose(&Sight::new(&state, acting, u64::from(ticks)));
                            choices.set(acting, choice.unwrap_or_else(|_| state.draw(acting, chance)));
                        }
                        _ => choices.set(acting, state.draw(acting, chance)),
                    }
                });
                if over {
                    return gained + weight * (margin(state.scores(), self.seat) - before);
                }
                state.advance(&self.choices, chance);
                self.meter.advanced();
                ticks += 1;
            }
            let now = state.appraise(self.seat, &self.traits.weights);
            gained += weight * (now - before);
            before = now;
            weight *= self.traits.discount;
        }
        gained
    }

    /// Returns the model of each other seat; one that cannot be built, or gives up, acts at random.
    fn others(&self, state: &G, chance: &mut Chance) -> Vec<Option<Box<dyn Agent<G>>>> {
        let Model::Like(factory) = self.model.as_ref() else { return Vec::new() };
        let other = |seat: Seat| {
            if seat == self.seat {
                return None;
            }
            let mut agent = factory(Person::new(Chance::from_seed(chance.bits()))).ok()?;
            agent.begin(seat, Chance::from_seed(chance.bits()));
            Some(agent)
        };
        (0..state.seats()).map(other).collect()
    }
}

impl<G: Options + Imagine + Appraise> Agent<G> for Horizon<G> {
    fn begin(&mut self, seat: Seat, chance: Chance) {
        self.seat = seat;
        self.chance = chance;
        self.rest.clear();
        self.held = 0;
        self.current = None;
    }

    fn choose(&mut self, sight: &Sight<'_, G>) -> Result<G::Action, GaveUp> {
        self.meter = Meter::start(self.traits.budget, sight.halt());
        if self.held > 0
            && let Some(current) = &self.current
        {
            self.held -= 1;
            return Ok(sight.repair(current));
        }
        let mut chance = Chance::from_seed(self.chance.bits());
        self.plan(sight, &mut chance);
        if let Some(best) = self.plans.first() {
            self.rest.clone_from(&best.actions);
        }
        let wanted = if self.rest.is_empty() { sight.draw(&mut chance) } else { self.rest.remove(0) };
        self.held = self.traits.hold - 1;
        let action = sight.repair(&wanted);
        self.current = Some(wanted);
        Ok(action)
    }

    fn pace(&self) -> Pace {
        self.traits.budget.pace()
    }

    fn spent(&self) -> Option<Spent> {
        Some(self.meter.spent(self.traits.length as u32))
    }

    fn thoughts(&self) -> Option<Thoughts<G::Action>> {
        let weigh = |(times, plan): &(u64, Plan<G::Action>)| {
            let first = plan.actions.first().cloned()?;
            let weighed = Weighed::new(first, plan.value).of_seat(self.seat).deep(plan.actions.len() as u32);
            Some(Weighed { line: plan.actions.clone(), ..weighed.tried(*times, self.meter.iterations) })
        };
        // While an action is held nothing is weighed.
        let planned = self.meter.iterations > 0;
        let mut thoughts = Thoughts::of(self.tried.iter().filter(|_| planned).filter_map(weigh).collect());
        thoughts.options.truncate(TOLD);
        thoughts.looking_at.clone_from(&self.looking_at);
        thoughts.spent = self.spent().unwrap_or_default();
        Some(thoughts)
    }
}
