//! The kind `minimax`: looks a set number of turns ahead and expects everybody's best play.

use crate::budget::{self, Budget};
use crate::limits::Graded;
use crate::soft::even_shares;
use crate::value_weights::ValueWeights;
use inkpot_core::{
    Agent, AgentKind, Appraise, Chance, GaveUp, Halt, Imagine, Keyed, Knob, Knobs, Options, Pace, Seat, Sight, Spent,
    Step, Thoughts, Weighed,
};

use crate::alphabeta::{AlphaBeta, DEEPEST, Root, mover};
use crate::maxn::MaxN;

const MIB: f64 = 1_048_576.0;

/// The kind `minimax` for any game of turns that can be imagined: negamax with alpha-beta and a transposition table for
/// two seats, max-n for more. Values are in score margin; once the depth covers the game they are exact.
/// `weights` are the knobs of the game's value of a state, in its order; none where it has no use for any.
pub fn minimax<G: Options + Imagine + Appraise + Keyed + 'static>(weights: &[Knob]) -> AgentKind<G> {
    let kind = AgentKind::new("minimax", "looks a set number of turns ahead and expects everybody's best play")
        .knob(budget::depth(4))
        .knob(budget::nodes(10_000))
        .knob(budget::millis())
        .knob(
            Knob::whole("quiescence", 0..=16, 0)
                .unit("turns")
                .help("how far beyond its depth it looks where the game says that something is just happening"),
        )
        .knob(Knob::choice("ties", &["chance", "first"]).help("which of equally good options it takes"))
        .knob(Knob::real("table", 0.0..=16_384.0, 32.0).unit("MiB").help("most memory for positions already searched"));
    let weights = ValueWeights::of(weights);
    weights
        .added_to(kind)
        .factory(move |knobs| {
            let traits = Traits::of(&weights, knobs);
            Box::new(move |_person| Box::new(Minimax::<G>::new(traits.clone())))
        })
        .graded_by_values()
        .without_chance(Knobs::default().with_word("ties", "first").with("slip", 0.0).with("temper", 0.0))
}

#[derive(Clone)]
struct Traits {
    budget: Budget,
    quiescence: u32,
    ties_first: bool,
    table_bytes: usize,
    weights: Vec<f64>,
}

impl Traits {
    fn of(weights: &ValueWeights, knobs: &Knobs) -> Self {
        Self {
            budget: Budget::read(knobs, ""),
            quiescence: knobs.number("quiescence") as u32,
            ties_first: knobs.word("ties") == "first",
            table_bytes: (knobs.number("table") * MIB) as usize,
            weights: weights.read(knobs),
        }
    }
}

struct Minimax<G: Options + Imagine + Appraise + Keyed> {
    traits: Traits,
    chance: Chance,
    layers: u32,
    options: Vec<G::Action>,
    search: AlphaBeta<G>,
    weighed: Vec<Weighed<G::Action>>,
    best: Vec<G::Action>,
    steps: Vec<Step<G::Action>>,
    looking_at: Vec<G::Action>,
    spent: Spent,
}

impl<G: Options + Imagine + Appraise + Keyed> Minimax<G> {
    fn new(traits: Traits) -> Self {
        let search = AlphaBeta::new(traits.weights.clone(), traits.quiescence, traits.table_bytes);
        Self {
            traits,
            chance: Chance::from_seed(0),
            layers: 0,
            options: Vec::new(),
            search,
            weighed: Vec::new(),
            best: Vec::new(),
            steps: Vec::new(),
            looking_at: Vec::new(),
            spent: Spent::default(),
        }
    }

    fn two_seats(&mut self, state: &G, (seat, halt): (Seat, &Halt), chance: Chance) {
        self.search.chance = chance;
        self.looking_at.clear();
        // The root's own children are advanced once, before the budget is looked at.
        self.search.meter = budget::Meter::free();
        let mut roots = self.search.roots(state, seat);
        let grown = self.search.meter.nodes;
        self.steps = self.search.deepen(&mut roots, seat, (self.traits.budget, halt));
        self.steps.iter_mut().for_each(|step| step.nodes += grown);
        self.looking_at = self.search.looking_at();
        let total: u64 = roots.iter().map(|root| root.nodes).sum();
        self.spent = Spent {
            iterations: self.steps.len() as u64,
            nodes: self.search.meter.nodes + grown,
            depth: self.search.depth,
            out_of_budget: self.search.meter.out,
            exact: self.search.resolved,
            memory_bytes: self.search.table_bytes() as u64,
        };
        self.weighed = roots.iter().map(|root| weighed(root, seat, self.search.depth, total)).collect();
        // A bound that equals the best was proved worse by how soon it comes.
        let sure = |root: &&Root<G>| !root.bound;
        let best = roots.iter().filter(sure).filter_map(|root| root.score).max();
        let best_roots = roots.iter().filter(sure).filter(|root| root.score == best);
        self.best = best_roots.map(|root| root.option.clone()).collect();
        if self.layers > 0 && self.search.depth > 0 {
            self.reflect_on(state, seat, halt);
        }
    }

    /// Computes exact values of all options at the reached depth, and keeps the search's own costs.
    fn reflect_on(&mut self, state: &G, seat: Seat, halt: &Halt) {
        self.search.meter = budget::Meter::start(Budget::Depth(self.search.depth), halt);
        let full = self.search.weigh_all(state, seat, self.spent.nodes, self.layers);
        for option in full {
            if let Some(weighed) = self.weighed.iter_mut().find(|weighed| weighed.option == option.option) {
                *weighed = Weighed { share: weighed.share, depth: weighed.depth, ..option };
            }
        }
    }

    fn more_seats(&mut self, state: &G, (seat, halt): (Seat, &Halt), chance: &mut Chance) {
        let mut search = MaxN::new(self.traits.weights.clone(), state.seats());
        search.meter = budget::Meter::start(self.traits.budget, halt);
        let deepest = if let Budget::Depth(depth) = self.traits.budget { depth } else { DEEPEST };
        self.weighed = self.options.iter().map(|option| Weighed::new(option.clone(), f64::NAN).of_seat(seat)).collect();
        self.steps.clear();
        self.spent = Spent::default();
        while self.spent.depth < deepest && !search.meter.out && !self.spent.exact {
            search.open = false;
            let depth = self.spent.depth + 1;
            let mut weighed = Vec::new();
            for option in &self.options {
                let child = search.advanced(state, seat, option, chance);
                let (values, line) = search.value(&child, depth - 1, chance);
                let mut option = Weighed::new(option.clone(), values[seat]).of_seat(seat).deep(depth);
                option.line.extend(line);
                weighed.push(option);
            }
            if search.meter.out {
                break;
            }
            self.spent.depth = depth;
            self.spent.exact = !search.open;
            self.weighed = weighed;
            let best = self.weighed.iter().max_by(|a, b| a.value.total_cmp(&b.value));
            self.steps.extend(best.map(|best| Step {
                depth,
                best: best.option.clone(),
                value: best.value,
                nodes: search.meter.nodes,
            }));
        }
        self.spent.iterations = self.steps.len() as u64;
        self.spent.nodes = search.meter.nodes;
        self.spent.out_of_budget = search.meter.out;
        let best = self.weighed.iter().map(|option| option.value).fold(f64::NAN, f64::max);
        let best_options = self.weighed.iter().filter(|option| option.value == best);
        self.best = best_options.map(|option| option.option.clone()).collect();
    }

    /// One of the best options found, or any where nothing was found in time.
    fn pick(&mut self, chance: &mut Chance) -> G::Action {
        let ties: Vec<&G::Action> = self.options.iter().filter(|option| self.best.contains(option)).collect();
        match ties.as_slice() {
            [] => self.options[chance.below(self.options.len())].clone(),
            [first, ..] if self.traits.ties_first => (*first).clone(),
            ties => ties[chance.below(ties.len())].clone(),
        }
    }
}

fn weighed<G: Options>(root: &Root<G>, seat: Seat, depth: u32, total: u64) -> Weighed<G::Action> {
    let value = root.score.map_or(f64::NAN, crate::score::Score::value);
    let mut weighed = Weighed::new(root.option.clone(), value).of_seat(seat);
    weighed.depth = (depth > 0).then_some(depth);
    weighed.bound = root.bound;
    weighed.share = (total > 0).then(|| root.nodes as f64 / total as f64);
    weighed
}

impl<G: Options + Imagine + Appraise + Keyed> Agent<G> for Minimax<G> {
    fn begin(&mut self, _seat: Seat, chance: Chance) {
        self.chance = chance;
    }

    /// One of the best options, or any where nothing was found in time. By the clock it chooses by more than the position.
    fn shares(&mut self, sight: &Sight<'_, G>, options: &[G::Action]) -> Option<Vec<f64>> {
        if matches!(Agent::<G>::pace(self), Pace::Within(_)) {
            return None;
        }
        let chosen = self.choose(sight).ok()?;
        if self.best.is_empty() {
            return even_shares(options.len(), |_| true);
        }
        let (best, first) = (&self.best, self.traits.ties_first);
        even_shares(
            options.len(),
            |option| if first { options[option] == chosen } else { best.contains(&options[option]) },
        )
    }

    fn choose(&mut self, sight: &Sight<'_, G>) -> Result<G::Action, GaveUp> {
        sight.options(&mut self.options);
        self.weighed.clear();
        self.best.clear();
        self.steps.clear();
        self.spent = Spent::default();
        // Two draws a decision, however much of them is used: reflecting changes no later choice.
        let mut ties = Chance::from_seed(self.chance.bits());
        let mut chance = Chance::from_seed(self.chance.bits());
        let lone = self.options.len() == 1 && self.layers == 0;
        if let Some(state) = sight.imagine(&mut chance).filter(|_| !lone) {
            // Fails where several seats choose at once.
            mover(&state);
            let at = (sight.seat(), sight.halt());
            if state.seats() <= 2 {
                self.two_seats(&state, at, chance);
            } else {
                self.more_seats(&state, at, &mut chance);
            }
        }
        Ok(self.pick(&mut ties))
    }

    fn pace(&self) -> Pace {
        self.traits.budget.pace()
    }

    fn spent(&self) -> Option<Spent> {
        Some(self.spent)
    }

    fn thoughts(&self) -> Option<Thoughts<G::Action>> {
        let mut thoughts = Thoughts::of(self.weighed.clone());
        thoughts.steps.clone_from(&self.steps);
        thoughts.looking_at.clone_from(&self.looking_at);
        thoughts.spent = self.spent;
        if thoughts.options.is_empty() {
            // It never got to the end of its search: what the meter says is all there is.
            thoughts.looking_at = self.search.looking_at();
            thoughts.spent.nodes = self.search.meter.nodes;
            thoughts.spent.depth = self.search.depth;
        }
        Some(thoughts)
    }

    fn reflect(&mut self, layers: u32) {
        self.layers = layers;
    }
}
