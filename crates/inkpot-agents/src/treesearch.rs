//! The kind `treesearch`: Monte Carlo tree search.
//!
//! Upper confidence bounds for trees (Kocsis & Szepesvári 2006) with UCB1 (Auer, Cesa-Bianchi & Fischer 2002) at every
//! choice. Seats that choose at once each have bounds of their own (decoupled). Every iteration starts from a freshly
//! imagined state, and nodes are known by the choices that lead to them, so chance and hidden things need no nodes of
//! their own (after Cowling, Powley & Whitehouse 2012). Progressive bias after Chaslot et al. 2008.

use crate::budget::{self, Budget, Meter};
use crate::limits::Graded;
use crate::value_weights::ValueWeights;
use inkpot_core::{
    Agent, AgentKind, Appraise, Chance, Choices, GaveUp, Imagine, Keyed, Knob, Knobs, Options, Pace, Seat, Sight,
    Spent, Thoughts, Weighed,
};

use crate::rollout::{Playout, Roller};
use crate::tree::{Arm, Fan, NONE, Tree};

const MIB: f64 = 1_048_576.0;
/// The bound of an option that was never tried: above any that was.
const UNTRIED: f32 = 1000.0;

/// The kind `treesearch` for any game that can be imagined. Values are points shares, 0 to 1.
/// `weights` are the knobs of the game's value of a state, in its order.
pub fn treesearch<G: Options + Imagine + Appraise + 'static>(weights: &[Knob]) -> AgentKind<G> {
    let weights = ValueWeights::of(weights);
    made(knobs::<G>(&weights), weights, |_| None)
}

/// The same with the knob `reuse`, for a game of turns without chance in which nothing is hidden: the part of the tree
/// that still counts is kept from one decision to the next.
pub fn treesearch_reusing<G: Options + Imagine + Appraise + Keyed + 'static>(weights: &[Knob]) -> AgentKind<G> {
    let weights = ValueWeights::of(weights);
    let kind = knobs::<G>(&weights)
        .knob(Knob::choice("reuse", &["yes", "no"]).help("whether the tree is kept from one decision to the next"));
    made(kind, weights, |knobs| {
        (knobs.word("reuse") == "yes").then_some(((|a: &G, b: &G| a.key() == b.key()) as Same<G>) as Same<G>)
    })
}

/// Whether two states have the same future.
pub(crate) type Same<G> = fn(&G, &G) -> bool;

fn knobs<G: Appraise + Options + Imagine + 'static>(weights: &ValueWeights) -> AgentKind<G> {
    let kind = AgentKind::new("treesearch", "grows a tree of the likely play by thousands of playouts")
        .knob(budget::iterations("iterations", 1000, "playouts for each decision"))
        .knob(budget::nodes(50_000))
        .knob(budget::millis())
        .knob(
            Knob::real("exploration", 0.0..=10.0, 0.5)
                .help("how much it favours options that it has seldom tried: the constant of UCB1"),
        )
        .knob(Playout::knob())
        .knob(Playout::length_knob())
        .knob(
            Knob::real("bias", 0.0..=100.0, 0.0)
                .help("how much the value at sight of an option guides it at first (progressive bias)"),
        )
        .knob(Knob::choice("ties", &["chance", "first"]).help("which of equally good options it takes"))
        .knob(
            Knob::real("tree", 0.0..=16_384.0, 64.0)
                .unit("MiB")
                .help("most memory for the tree; when full it grows no more"),
        );
    weights.added_to(kind)
}

fn made<G: Options + Imagine + Appraise + 'static>(
    kind: AgentKind<G>,
    weights: ValueWeights,
    same: fn(&Knobs) -> Option<Same<G>>,
) -> AgentKind<G> {
    kind.factory(move |knobs| {
        let traits = Traits::of(&weights, knobs);
        let same = same(knobs);
        Box::new(move |_person| Box::new(TreeSearch::<G>::new(traits.clone(), same)))
    })
    .graded_by_values()
}

#[derive(Clone)]
struct Traits {
    budget: Budget,
    exploration: f64,
    playout: Playout,
    length: u32,
    bias: f64,
    ties_first: bool,
    tree_bytes: usize,
    weights: Vec<f64>,
}

impl Traits {
    fn of(weights: &ValueWeights, knobs: &Knobs) -> Self {
        Self {
            budget: Budget::read(knobs, "iterations"),
            exploration: knobs.number("exploration"),
            playout: Playout::of(knobs.word("playout")),
            length: knobs.number("length") as u32,
            bias: knobs.number("bias"),
            ties_first: knobs.word("ties") == "first",
            tree_bytes: (knobs.number("tree") * MIB) as usize,
            weights: weights.read(knobs),
        }
    }
}

pub(crate) struct TreeSearch<G: Options + Imagine + Appraise> {
    traits: Traits,
    pub(crate) same: Option<Same<G>>,
    seat: Seat,
    chance: Chance,
    layers: u32,
    pub(crate) tree: Tree<G::Action>,
    /// The state at the root of the kept tree.
    pub(crate) at: Option<G>,
    roller: Roller<G>,
    options: Vec<G::Action>,
    meter: Meter,
    /// Arms chosen in this iteration.
    path: Vec<usize>,
    visited: Vec<u32>,
    line: Vec<G::Action>,
    pub(crate) choices: Choices<G::Action>,
    gains: Vec<f64>,
    deepest: u32,
}

impl<G: Options + Imagine + Appraise> TreeSearch<G> {
    fn new(traits: Traits, same: Option<Same<G>>) -> Self {
        Self {
            same,
            seat: 0,
            chance: Chance::from_seed(0),
            layers: 1,
            tree: Tree::new(traits.tree_bytes),
            at: None,
            roller: Roller::new(traits.playout, traits.length, traits.weights.clone()),
            options: Vec::new(),
            meter: Meter::free(),
            path: Vec::new(),
            visited: Vec::new(),
            line: Vec::new(),
            choices: Choices::none(0),
            gains: Vec::new(),
            deepest: 0,
            traits,
        }
    }

    /// Runs one iteration: down the tree, one new node, a playout, and its result back up.
    fn iterate(&mut self, mut state: G, chance: &mut Chance) {
        self.path.clear();
        self.visited.clear();
        self.line.clear();
        let mut node = 0;
        loop {
            self.visited.push(node);
            if !self.open(node, &state, chance) {
                break;
            }
            let fresh = self.tree.nodes[node as usize].visits == 0 && node != 0;
            if fresh {
                break;
            }
            let first = self.path.len();
            self.select(node, &state, chance);
            state.advance(&self.choices, chance);
            self.meter.advanced();
            // Without chance the same seats act whenever the same was chosen.
            let acting = if self.same.is_some() { None } else { Some(acting(&state)) };
            let chosen = &self.path[first..];
            node = match self.tree.child(node, chosen, acting) {
                Some(child) => child,
                None if self.tree.has_room() => self.tree.grow(node, chosen, acting),
                None => break,
            };
        }
        self.deepest = self.deepest.max(self.visited.len() as u32 - 1);
        self.roller.play(state, &mut self.meter, chance, &mut self.gains);
        for &node in &self.visited {
            self.tree.nodes[node as usize].visits += 1;
        }
        // Which seat an arm belongs to follows from the fans along the way.
        let mut at = 0;
        for &node in &self.visited {
            for fan in self.tree.fans_of(node) {
                let Some(&arm) = self.path.get(at) else { break };
                let seat = self.tree.fans[fan].seat;
                self.tree.arms[arm].visit(self.gains[seat]);
                at += 1;
            }
        }
    }

    /// Sees to it that a node has the fans of the seats that act; false when the match is over.
    fn open(&mut self, node: u32, state: &G, chance: &mut Chance) -> bool {
        let known = self.tree.fans_of(node);
        if self.same.is_some() && !known.is_empty() {
            // Without chance, and with nothing hidden, the options of a node are always the same.
            return true;
        }
        let mut fan = known.start;
        let mut any = false;
        let Self { tree, options, .. } = self;
        state.acting().for_each(state.seats(), |seat| {
            any = true;
            options.clear();
            state.options(seat, options);
            if known.is_empty() {
                tree.fan_out(node, seat, options);
            } else if known.contains(&fan) && !alike(tree.arms_of(tree.fans[fan]), options) {
                tree.widen(fan, options);
            }
            fan += 1;
        });
        if any && known.is_empty() && self.traits.bias > 0.0 {
            self.appraise(node, state, chance);
        }
        any
    }

    /// Gives the arms of a new node their value at sight.
    fn appraise(&mut self, node: u32, state: &G, chance: &mut Chance) {
        let mut gains = Vec::new();
        for fan in self.tree.fans_of(node) {
            let Fan { seat, start, len } = self.tree.fans[fan];
            for arm in start..start + len {
                let mut next = state.clone();
                let mut choices = Choices::none(state.seats());
                state.acting().for_each(state.seats(), |other| choices.set(other, state.draw(other, chance)));
                choices.set(seat, self.tree.arms[arm as usize].action.clone());
                next.advance(&choices, chance);
                self.meter.advanced();
                self.roller.value(&next, &mut gains);
                self.tree.arms[arm as usize].prior = gains[seat] as f32;
            }
        }
    }

    /// Chooses an arm for every seat that acts, into `path` and `choices`.
    fn select(&mut self, node: u32, state: &G, chance: &mut Chance) {
        self.choices.clear();
        let visits = self.tree.nodes[node as usize].visits;
        let reach = self.traits.exploration * libm::log(f64::from(visits.max(1))).sqrt();
        for fan in self.tree.fans_of(node) {
            let Fan { seat, start, len } = self.tree.fans[fan];
            let arms = &self.tree.arms[start as usize..(start + len) as usize];
            let alone = self.tree.nodes[node as usize].fans == 1;
            let legal = if self.same.is_some() || (alone && len as usize == self.options.len()) {
                None
            } else {
                self.options.clear();
                state.options(seat, &mut self.options);
                (self.options.len() < len as usize).then_some(self.options.as_slice())
            };
            let pick = self.traits.best_arm(arms, legal, reach, chance);
            let arm = &arms[pick];
            self.choices.set(seat, arm.action.clone());
            if seat == self.seat || self.tree.nodes[node as usize].fans == 1 {
                self.line.push(arm.action.clone());
            }
            self.path.push(start as usize + pick);
        }
    }

    fn weighed(&self, node: u32, seat: Option<Seat>, layers: u32) -> Vec<Weighed<G::Action>> {
        let fans = &self.tree.fans[self.tree.fans_of(node)];
        let Some(fan) = seat.map_or(fans.first(), |seat| fans.iter().find(|fan| fan.seat == seat)) else {
            return Vec::new();
        };
        let arms = self.tree.arms_of(*fan);
        let visits: u64 = arms.iter().map(|arm| u64::from(arm.visits)).sum();
        let weigh = |arm: &Arm<G::Action>| {
            let mut weighed =
                Weighed::new(arm.action.clone(), arm.value()).of_seat(fan.seat).tried(u64::from(arm.visits), visits);
            self.follow(arm.child, &mut weighed.line);
            if layers > 1 && arm.child != NONE {
                weighed.replies = self.weighed(arm.child, None, layers - 1);
                weighed.replies.retain(|reply| reply.visits != Some(0));
            }
            weighed
        };
        let mut all: Vec<_> = arms.iter().map(weigh).collect();
        // The most tried option is the one it takes.
        all.sort_by_key(|weighed| std::cmp::Reverse(weighed.visits));
        all
    }

    /// The most tried line from a node.
    fn follow(&self, mut node: u32, line: &mut Vec<G::Action>) {
        while node != NONE {
            let fans = self.tree.fans_of(node);
            let Some(fan) = self.tree.fans.get(fans.start).filter(|_| fans.len() == 1) else { return };
            let arms = self.tree.arms_of(*fan);
            let Some(arm) = arms.iter().max_by_key(|arm| arm.visits).filter(|arm| arm.visits > 0) else { return };
            line.push(arm.action.clone());
            node = arm.child;
        }
    }
}

/// The seats that act, as bits.
fn acting<G: Options>(state: &G) -> u64 {
    let mut seats = 0;
    state.acting().for_each(state.seats(), |seat| seats |= 1 << (seat % 64));
    seats
}

/// Whether the arms of a fan are just these options in this order.
fn alike<A: PartialEq>(arms: &[Arm<A>], options: &[A]) -> bool {
    arms.len() == options.len() && arms.iter().zip(options).all(|(arm, option)| arm.action == *option)
}

impl Traits {
    /// The arm to try: any untried one first, else the one with the greatest upper bound; only `legal` ones, if given.
    /// `reach` is the exploration times the root of the logarithm of the node's visits.
    fn best_arm<A: PartialEq>(&self, arms: &[Arm<A>], legal: Option<&[A]>, reach: f64, chance: &mut Chance) -> usize {
        let from = chance.below(arms.len());
        let mut best = (f32::NEG_INFINITY, from);
        let (reach, strength) = (reach as f32, self.bias as f32);
        for step in 0..arms.len() {
            let place = if from + step < arms.len() { from + step } else { from + step - arms.len() };
            let arm = &arms[place];
            if legal.is_some_and(|legal| !legal.contains(&arm.action)) {
                continue;
            }
            let bound = if arm.visits == 0 {
                UNTRIED + arm.prior
            } else {
                // UCB1, and the bias where there is any.
                let bias = if strength > 0.0 { strength * arm.prior / (arm.visits as f32 + 1.0) } else { 0.0 };
                arm.mean + reach * arm.spread + bias
            };
            if bound > best.0 {
                best = (bound, place);
            }
        }
        best.1
    }
}

impl<G: Options + Imagine + Appraise> Agent<G> for TreeSearch<G> {
    fn begin(&mut self, _seat: Seat, chance: Chance) {
        self.chance = chance;
        self.tree.clear();
        self.at = None;
    }

    fn choose(&mut self, sight: &Sight<'_, G>) -> Result<G::Action, GaveUp> {
        let mut ties = Chance::from_seed(self.chance.bits());
        let mut chance = Chance::from_seed(self.chance.bits());
        self.seat = sight.seat();
        self.meter = Meter::start(self.traits.budget, sight.halt());
        self.deepest = 0;
        match sight.imagine(&mut chance) {
            Some(state) => {
                self.choices = Choices::none(state.seats());
                self.settle(&state, &mut chance);
                while !self.meter.out {
                    let Some(state) = sight.imagine(&mut chance) else { break };
                    self.iterate(state, &mut chance);
                    self.meter.iterated();
                }
            }
            None => self.tree.clear(),
        }
        let mut options = Vec::new();
        sight.options(&mut options);
        let fans = &self.tree.fans[self.tree.fans_of(0)];
        let arms = fans.iter().find(|fan| fan.seat == sight.seat()).map_or(&[][..], |fan| self.tree.arms_of(*fan));
        let legal = |arm: &&Arm<G::Action>| options.contains(&arm.action);
        let most = arms.iter().filter(legal).map(|arm| arm.visits).max().unwrap_or(0);
        let tied: Vec<&Arm<G::Action>> = arms.iter().filter(legal).filter(|arm| arm.visits == most).collect();
        Ok(match tied.as_slice() {
            [] => options[ties.below(options.len())].clone(),
            [first, ..] if self.traits.ties_first => first.action.clone(),
            tied => tied[ties.below(tied.len())].action.clone(),
        })
    }

    fn pace(&self) -> Pace {
        self.traits.budget.pace()
    }

    fn spent(&self) -> Option<Spent> {
        Some(Spent { memory_bytes: self.tree.bytes() as u64, ..self.meter.spent(self.deepest) })
    }

    fn thoughts(&self) -> Option<Thoughts<G::Action>> {
        let options = self.weighed(0, Some(self.seat), self.layers);
        let spent = self.spent().unwrap_or_default();
        Some(Thoughts { options, looking_at: self.line.clone(), ..Thoughts::spending(spent) })
    }

    fn reflect(&mut self, layers: u32) {
        self.layers = layers.max(1);
    }
}
