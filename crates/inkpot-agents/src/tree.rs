//! The tree of a tree search: nodes by the choices that lead to them, in bounded memory.

use std::collections::HashMap;

use rustc_hash::FxBuildHasher;

use inkpot_core::Seat;

/// Arms that a new node is taken to bring at most.
const MORE: usize = 64;

/// No child yet.
pub(crate) const NONE: u32 = u32::MAX;

/// One thing that a seat may choose at a node.
#[derive(Clone, Debug)]
pub(crate) struct Arm<A> {
    pub(crate) action: A,
    pub(crate) visits: u32,
    /// The node this leads to, where the seat chooses alone.
    pub(crate) child: u32,
    /// The sum of the seat's points.
    sum: f64,
    /// The mean of the seat's points, and 1 / sqrt(visits): stored, since they are read far more often than changed,
    /// and small, since a large tree depends on the caches.
    pub(crate) mean: f32,
    pub(crate) spread: f32,
    /// The prior from the value at sight, 0 to 1.
    pub(crate) prior: f32,
}

impl<A> Arm<A> {
    pub(crate) fn new(action: A) -> Self {
        Self { action, visits: 0, child: NONE, sum: 0.0, mean: f32::NAN, spread: 0.0, prior: 0.0 }
    }

    /// The same, leading nowhere yet.
    pub(crate) fn without_child(&self) -> Self
    where
        A: Clone,
    {
        Self { child: NONE, ..self.clone() }
    }

    /// Counts a visit that gave the seat this much.
    #[inline]
    pub(crate) fn visit(&mut self, gain: f64) {
        self.visits += 1;
        self.sum += gain;
        let share = 1.0 / f64::from(self.visits);
        self.mean = (self.sum * share) as f32;
        self.spread = share.sqrt() as f32;
    }

    /// Returns the seat's mean points; NaN before the first visit.
    pub(crate) fn value(&self) -> f64 {
        self.sum / f64::from(self.visits)
    }
}

/// The options of one seat at a node: arms `start..start + len`.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Fan {
    pub(crate) seat: Seat,
    pub(crate) start: u32,
    pub(crate) len: u32,
}

#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Node {
    pub(crate) visits: u32,
    /// Its fans, one a seat that chooses: `first..first + fans`; none before the first visit.
    pub(crate) first: u32,
    pub(crate) fans: u16,
}

/// The nodes, their fans and arms, each in one piece of memory.
pub(crate) struct Tree<A> {
    pub(crate) nodes: Vec<Node>,
    pub(crate) fans: Vec<Fan>,
    pub(crate) arms: Vec<Arm<A>>,
    /// Children after simultaneous choices, or where chance decides who acts next, by the node and a code of the chosen
    /// arms and the acting seats.
    joint: HashMap<(u32, u64), u32, FxBuildHasher>,
    most_bytes: usize,
}

impl<A: Clone + PartialEq> Tree<A> {
    /// A tree of a bare root that grows up to this many bytes.
    pub(crate) fn new(most_bytes: usize) -> Self {
        let mut tree =
            Self { nodes: Vec::new(), fans: Vec::new(), arms: Vec::new(), joint: HashMap::default(), most_bytes };
        tree.clear();
        tree
    }

    /// A tree of a bare root with as much memory as this one holds, which a part of this one fits into.
    pub(crate) fn as_large(&self) -> Self {
        let mut tree = Self {
            nodes: Vec::with_capacity(self.nodes.capacity()),
            fans: Vec::with_capacity(self.fans.capacity()),
            arms: Vec::with_capacity(self.arms.capacity()),
            joint: HashMap::default(),
            most_bytes: self.most_bytes,
        };
        tree.clear();
        tree
    }

    /// Back to a bare root; the memory is kept.
    pub(crate) fn clear(&mut self) {
        self.nodes.clear();
        self.nodes.push(Node::default());
        self.fans.clear();
        self.arms.clear();
        self.joint.clear();
    }

    /// Bytes held.
    pub(crate) fn bytes(&self) -> usize {
        self.bytes_with(0)
    }

    /// Whether another node fits, including the memory of its fans and arms.
    pub(crate) fn has_room(&self) -> bool {
        self.bytes_with(MORE) <= self.most_bytes
    }

    /// Bytes held once each part has room for this many more: a part that is full doubles.
    fn bytes_with(&self, more: usize) -> usize {
        let held =
            |len: usize, capacity: usize| if len + more > capacity { (2 * capacity).max(len + more) } else { capacity };
        held(self.nodes.len(), self.nodes.capacity()) * size_of::<Node>()
            + held(self.fans.len(), self.fans.capacity()) * size_of::<Fan>()
            + held(self.arms.len(), self.arms.capacity()) * size_of::<Arm<A>>()
            // A table keeps a slot in eight free, and a byte of its own for each.
            + held(self.joint.len(), self.joint.capacity()) * (size_of::<((u32, u64), u32)>() + 1) * 8 / 7
    }

    pub(crate) fn fans_of(&self, node: u32) -> std::ops::Range<usize> {
        let node = self.nodes[node as usize];
        node.first as usize..node.first as usize + usize::from(node.fans)
    }

    pub(crate) fn arms_of(&self, fan: Fan) -> &[Arm<A>] {
        &self.arms[fan.start as usize..(fan.start + fan.len) as usize]
    }

    /// Gives a node the fan of one more seat.
    pub(crate) fn fan_out(&mut self, node: u32, seat: Seat, options: &[A]) {
        let start = self.arms.len() as u32;
        self.arms.extend(options.iter().cloned().map(Arm::new));
        let slot = &mut self.nodes[node as usize];
        if slot.fans == 0 {
            slot.first = self.fans.len() as u32;
        }
        slot.fans += 1;
        self.fans.push(Fan { seat, start, len: options.len() as u32 });
    }

    /// Adds the options that a fan does not have: in a game with chance or hidden things they differ from state to
    /// state.
    pub(crate) fn widen(&mut self, fan: usize, options: &[A]) {
        let Fan { seat, start, len } = self.fans[fan];
        let range = start as usize..(start + len) as usize;
        let fresh: Vec<A> = options
            .iter()
            .filter(|option| !self.arms[range.clone()].iter().any(|arm| arm.action == **option))
            .cloned()
            .collect();
        if fresh.is_empty() {
            return;
        }
        // The arms move behind all others, so that they stay in one piece.
        let moved = self.arms.len() as u32;
        let mut arms = self.arms[range].to_vec();
        arms.extend(fresh.into_iter().map(Arm::new));
        self.fans[fan] = Fan { seat, start: moved, len: arms.len() as u32 };
        self.arms.append(&mut arms);
    }

    /// Returns the node after the chosen arms, if there is one; where chance decides who acts next, the one for these
    /// seats.
    pub(crate) fn child(&self, node: u32, chosen: &[usize], acting: Option<u64>) -> Option<u32> {
        let child = match (chosen, acting) {
            ([arm], None) => self.arms[*arm].child,
            _ => self.joint.get(&(node, self.code(node, chosen, acting))).copied().unwrap_or(NONE),
        };
        (child != NONE).then_some(child)
    }

    /// A new node that the chosen arms lead to.
    pub(crate) fn grow(&mut self, node: u32, chosen: &[usize], acting: Option<u64>) -> u32 {
        let child = self.nodes.len() as u32;
        self.nodes.push(Node::default());
        if acting.is_some() || chosen.len() > 1 {
            let code = self.code(node, chosen, acting);
            self.joint.insert((node, code), child);
        }
        if let [arm] = chosen {
            // The first is kept beside the arm too: lines are told by it.
            let slot = &mut self.arms[*arm].child;
            *slot = if *slot == NONE { child } else { *slot };
        }
        child
    }

    /// A tree of its own from a node of this one; only for trees in which seats choose alone and without chance.
    pub(crate) fn branch(&self, root: u32) -> Self {
        let mut tree = self.as_large();
        tree.nodes[0].visits = self.nodes[root as usize].visits;
        let mut left = vec![(root, 0u32)];
        while let Some((old, new)) = left.pop() {
            for fan in self.fans_of(old) {
                let fan = self.fans[fan];
                let start = tree.arms.len();
                let actions: Vec<A> = self.arms_of(fan).iter().map(|arm| arm.action.clone()).collect();
                tree.fan_out(new, fan.seat, &actions);
                for (place, arm) in self.arms_of(fan).iter().enumerate() {
                    tree.arms[start + place] = arm.without_child();
                    if arm.child != NONE {
                        let child = tree.grow(new, &[start + place], None);
                        tree.nodes[child as usize].visits = self.nodes[arm.child as usize].visits;
                        left.push((arm.child, child));
                    }
                }
            }
        }
        tree
    }

    /// The places of the chosen arms within their fans as one number; they stay when a fan is widened.
    fn code(&self, node: u32, chosen: &[usize], acting: Option<u64>) -> u64 {
        let mix = |code: u64, word: u64| (code ^ word).wrapping_mul(0x9e37_79b9_7f4a_7c15).rotate_left(23);
        let fans = &self.fans[self.fans_of(node)];
        let places = fans.iter().zip(chosen).map(|(fan, arm)| *arm as u64 - u64::from(fan.start));
        places.fold(mix(17, acting.unwrap_or(0)), mix)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_tree_stays_within_its_memory() {
        let most = 200_000;
        let mut tree = Tree::<u64>::new(most);
        tree.fan_out(0, 0, &[0, 1, 2]);
        let mut node = 0;
        while tree.has_room() {
            let chosen = [tree.fans[tree.fans_of(node).start].start as usize];
            node = tree.grow(node, &chosen, None);
            tree.fan_out(node, 1, &[0, 1, 2, 3, 4]);
            assert!(tree.bytes() <= most, "{} bytes", tree.bytes());
        }
        assert!(tree.nodes.len() > 200, "{} nodes", tree.nodes.len());
    }

    #[test]
    fn a_widened_fan_keeps_its_visits_and_children() {
        let mut tree = Tree::<u64>::new(1 << 20);
        tree.fan_out(0, 0, &[7, 8]);
        tree.arms[1].visit(0.5);
        let child = tree.grow(0, &[1], None);
        tree.widen(0, &[9, 8, 7]);
        let arms = tree.arms_of(tree.fans[0]);
        assert_eq!(arms.iter().map(|arm| arm.action).collect::<Vec<_>>(), [7, 8, 9]);
        assert_eq!((arms[1].visits, arms[1].value(), arms[1].child), (1, 0.5, child));
    }
}
