//! Negamax with alpha-beta (Knuth & Moore 1975), for two seats that take turns in any order.

mod exact;

use crate::budget::{Budget, Meter};
use inkpot_core::{Acting, Appraise, Chance, Choices, Halt, Imagine, Keyed, Options, Seat, Step, folded, margin};

use crate::score::Score;
use crate::transpositions::{Known, Sense, TranspositionTable};

/// Positions nearer to the leaves than this are not worth a place in the table.
const TABLE_FROM: u32 = 2;
/// The most turns that a budget of states or time is followed: a game without end must not fill the stack.
pub(crate) const DEEPEST: u32 = 1000;

/// One search after another with the same table and buffers.
pub(crate) struct AlphaBeta<G: Keyed + Options> {
    pub(crate) weights: Vec<f64>,
    /// Most turns that unsettled leaves are looked beyond.
    pub(crate) quiescence: u32,
    pub(crate) meter: Meter,
    /// The line being looked at, down to the last turn but one.
    line: Vec<G::Action>,
    /// Turns looked ahead now.
    pub(crate) depth: u32,
    /// Whether the last iteration reached the end of the game on all lines.
    pub(crate) resolved: bool,
    table: TranspositionTable<G::Key>,
    plies: Vec<Ply<G>>,
    choices: Choices<G::Action>,
    /// The stream for the rules' chance in imagined states.
    pub(crate) chance: Chance,
    /// Whether a line was cut off by depth since this was last cleared.
    open: bool,
    /// States that a guess at an option's exact value may cost.
    cheap: u64,
}

/// The buffers of one turn of the line being looked at.
struct Ply<G: Options> {
    options: Vec<G::Action>,
    /// The states that the options lead to.
    children: Vec<G>,
    /// Value at sight and place of each option, the likeliest first.
    order: Vec<(Score, u16)>,
}

impl<G: Options> Default for Ply<G> {
    fn default() -> Self {
        Self { options: Vec::new(), children: Vec::new(), order: Vec::new() }
    }
}

/// An option of the root.
pub(crate) struct Root<G: Options> {
    pub(crate) option: G::Action,
    pub(crate) state: G,
    pub(crate) score: Option<Score>,
    /// Whether the score is only an upper bound.
    pub(crate) bound: bool,
    pub(crate) nodes: u64,
}

/// The mover of a state, which has to be one alone.
#[inline(always)]
pub(crate) fn mover<G: Options>(state: &G) -> Option<Seat> {
    match state.acting() {
        Acting::One(seat) | Acting::These(&[seat]) => Some(seat),
        Acting::Nobody => None,
        Acting::All | Acting::These(_) => {
            panic!("minimax needs seats that move in turn, and here several choose at once; use treesearch or horizon")
        }
    }
}

impl<G: Options + Imagine + Appraise + Keyed> AlphaBeta<G> {
    pub(crate) fn new(weights: Vec<f64>, quiescence: u32, table_bytes: usize) -> Self {
        Self {
            weights,
            quiescence,
            meter: Meter::free(),
            line: Vec::new(),
            depth: 0,
            resolved: false,
            table: TranspositionTable::new(table_bytes),
            plies: Vec::new(),
            choices: Choices::none(2),
            chance: Chance::from_seed(0),
            open: false,
            cheap: 0,
        }
    }

    /// Bytes held by the table.
    pub(crate) fn table_bytes(&self) -> usize {
        self.table.bytes()
    }

    /// The line that was looked at last, its last turn included.
    pub(crate) fn looking_at(&self) -> Vec<G::Action> {
        let last = (0..2).find_map(|seat| self.choices.get(seat));
        self.line.iter().chain(last).cloned().collect()
    }

    /// Searches ever deeper until the budget is spent, the game is at its end on all lines, or the depth is reached.
    pub(crate) fn deepen(
        &mut self,
        roots: &mut [Root<G>],
        seat: Seat,
        (budget, halt): (Budget, &Halt),
    ) -> Vec<Step<G::Action>> {
        self.table.forget();
        self.line.clear();
        self.meter = Meter::start(budget, halt);
        self.resolved = false;
        self.depth = 0;
        let deepest = if let Budget::Depth(depth) = budget { depth } else { DEEPEST };
        let mut steps = Vec::new();
        let mut exact: Vec<(Option<Score>, bool)> = roots.iter().map(|_| (None, false)).collect();
        while self.depth < deepest && !self.meter.out {
            self.depth += 1;
            self.open = false;
            self.iterate(roots, seat);
            if self.meter.out {
                self.depth -= 1;
                if self.depth > 0 {
                    // A half-done iteration says little: the last whole one stands.
                    for (root, (score, bound)) in roots.iter_mut().zip(&exact) {
                        (root.score, root.bound) = (*score, *bound);
                    }
                }
                break;
            }
            // Best first for the next iteration; the sort is stable, so bounds keep the order of before.
            roots.sort_by_key(|root| (std::cmp::Reverse(root.score), root.bound));
            exact = roots.iter().map(|root| (root.score, root.bound)).collect();
            if let Some((best, Some(score))) = roots.first().map(|root| (root.option.clone(), root.score)) {
                steps.push(Step { depth: self.depth, best, value: score.value(), nodes: self.meter.nodes });
            }
            self.resolved = !self.open;
            if self.resolved {
                break;
            }
        }
        steps
    }

    fn iterate(&mut self, roots: &mut [Root<G>], seat: Seat) {
        let mut best = Score::LEAST;
        for root in roots.iter_mut() {
            root.score = None;
        }
        for root in roots {
            let before = self.meter.nodes;
            self.line.clear();
            self.line.push(root.option.clone());
            // One less than the best, so that a tie is told from a worse option.
            let floor = best.less();
            let score = self.follow(&root.state, seat, self.depth, 0, floor, Score::MOST);
            if self.meter.out {
                return;
            }
            root.nodes += self.meter.nodes - before;
            root.score = Some(score);
            root.bound = score <= floor && floor > Score::LEAST;
            best = best.max(score);
        }
    }

    /// The options of a state with the states they lead to.
    pub(crate) fn roots(&mut self, state: &G, seat: Seat) -> Vec<Root<G>> {
        let mut options = Vec::new();
        state.options(seat, &mut options);
        let root = |option: G::Action| {
            let state = self.advanced(state, seat, &option);
            Root { option, state, score: None, bound: false, nodes: 0 }
        };
        options.into_iter().map(root).collect()
    }

    #[inline]
    fn advanced(&mut self, state: &G, seat: Seat, option: &G::Action) -> G {
        let mut next = state.clone();
        self.choices.clear();
        self.choices.set(seat, option.clone());
        next.advance(&self.choices, &mut self.chance);
        self.meter.advanced();
        next
    }

    /// The score for `seat`, which just moved, of the state it led to, `depth` turns counted before that move.
    #[inline(always)]
    fn follow(&mut self, state: &G, seat: Seat, depth: u32, ply: usize, alpha: Score, beta: Score) -> Score {
        let Some(next) = mover(state) else { return Score::end(margin(state.scores(), seat), ply + 1) };
        if depth <= 1 && !(self.quiescence > 0 && self.restless(state, ply)) {
            self.open = true;
            return Score::estimate(state.appraise(seat, &self.weights));
        }
        let depth = depth.saturating_sub(1).max(1);
        if next == seat {
            self.search(state, next, depth, ply + 1, alpha, beta)
        } else {
            -self.search(state, next, depth, ply + 1, -beta, -alpha)
        }
    }

    /// Whether a leaf is unsettled and may be looked beyond.
    fn restless(&self, state: &G, ply: usize) -> bool {
        ply + 1 < (self.depth + self.quiescence) as usize && state.unsettled()
    }

    /// The score for the mover of a state that is not over: exact within the window, a bound outside it (fail-soft).
    fn search(&mut self, state: &G, seat: Seat, depth: u32, ply: usize, alpha: Score, beta: Score) -> Score {
        if self.plies.len() <= ply {
            self.plies.resize_with(ply + 1, Ply::default);
        }
        if depth < TABLE_FROM {
            return self.leaves(state, seat, ply, alpha, beta);
        }
        let (key, symmetry) = folded(state);
        let known = self.table.get(&key).copied();
        if let Some(known) = known
            && let Some(score) = usable(&known, depth, ply, alpha, beta)
        {
            self.open |= !known.resolved;
            return score;
        }
        let hinted = known.filter(|_| symmetry == 0).map(|known| known.best);
        let open_before = std::mem::replace(&mut self.open, false);
        let mut buffers = std::mem::take(&mut self.plies[ply]);
        self.grow(&mut buffers, state, seat, hinted);
        let (best, place) = self.among(&buffers, seat, depth, ply, alpha, beta);
        self.plies[ply] = buffers;
        if !self.meter.out {
            let sense = if best >= beta {
                Sense::AtLeast
            } else if best > alpha {
                Sense::Exact
            } else {
                Sense::AtMost
            };
            let best_place = if symmetry == 0 { place } else { u16::MAX };
            let score = best.seen_from_node(ply);
            self.table.put(key, Known { score, sense, depth: depth as u16, resolved: !self.open, best: best_place });
        }
        self.open |= open_before;
        best
    }

    /// Advances every option once and puts the likeliest first: the one that the table names, then by value at sight.
    fn grow(&mut self, buffers: &mut Ply<G>, state: &G, seat: Seat, hinted: Option<u16>) {
        let Ply { options, children, order } = buffers;
        options.clear();
        children.clear();
        order.clear();
        state.options(seat, options);
        for (place, option) in options.iter().enumerate() {
            let child = self.advanced(state, seat, option);
            let hint = if hinted == Some(place as u16) {
                Score::MOST
            } else {
                Score::estimate(child.appraise(seat, &self.weights))
            };
            // Kept in order as they come, best first, earlier options before equal ones.
            let at = order.iter().position(|(other, _)| *other < hint).unwrap_or(order.len());
            order.insert(at, (hint, place as u16));
            children.push(child);
        }
    }

    fn among(
        &mut self,
        buffers: &Ply<G>,
        seat: Seat,
        depth: u32,
        ply: usize,
        mut alpha: Score,
        beta: Score,
    ) -> (Score, u16) {
        let (mut best, mut best_place) = (Score::LEAST, 0);
        for &(_, place) in &buffers.order {
            self.line.truncate(ply);
            self.line.push(buffers.options[usize::from(place)].clone());
            let score = self.follow(&buffers.children[usize::from(place)], seat, depth, ply, alpha, beta);
            if self.meter.out {
                break;
            }
            if score > best {
                (best, best_place) = (score, place);
                alpha = alpha.max(best);
                if best >= beta {
                    break;
                }
            }
        }
        (best, best_place)
    }

    /// The last turn: no order, no table, nothing kept.
    fn leaves(&mut self, state: &G, seat: Seat, ply: usize, mut alpha: Score, beta: Score) -> Score {
        let mut options = std::mem::take(&mut self.plies[ply].options);
        options.clear();
        state.options(seat, &mut options);
        let mut best = Score::LEAST;
        for option in &options {
            let child = self.advanced(state, seat, option);
            let score = self.follow(&child, seat, 1, ply, alpha, beta);
            if self.meter.out {
                break;
            }
            if score > best {
                best = score;
                alpha = alpha.max(best);
                if best >= beta {
                    break;
                }
            }
        }
        self.plies[ply].options = options;
        best
    }
}

/// Returns the score of a stored position if it settles the question: searched just as deep, or to the end of the game
/// within that depth, so that a search without a table would find the same.
#[inline]
fn usable(known: &Known, depth: u32, ply: usize, alpha: Score, beta: Score) -> Option<Score> {
    let deep = u32::from(known.depth);
    if !(deep == depth || (known.resolved && deep < depth)) {
        return None;
    }
    let score = known.score.seen_from_root(ply);
    let settles = match known.sense {
        Sense::Exact => true,
        Sense::AtLeast => score >= beta,
        Sense::AtMost => score <= alpha,
    };
    settles.then_some(score)
}
