//! Nodes and links, any to any.

use serde::{Deserialize, Serialize};

use super::Memory;
use super::activation::tanh;

/// A network of nodes and links: inputs first, then outputs, then hidden nodes, each named by its place.
///
/// Where no link leads back, nodes are computed one after the other in `order`, and a signal passes the whole network
/// at once. In a recurrent network all nodes are computed together from what the others gave the time before, so that a
/// signal passes one link a time: a chain of nodes is a delay, a loop a memory. Links are kept in the order of the
/// nodes that they lead to.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Graph {
    pub(crate) recurrent: bool,
    pub(crate) inputs: usize,
    pub(crate) outputs: usize,
    /// The nodes that are computed, in the order in which they are.
    pub(crate) order: Vec<GraphNode>,
    /// All links, those of each node one after the other.
    pub(crate) links: Vec<Link>,
}

/// A node that is computed.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct GraphNode {
    /// Its place among all nodes.
    pub node: u32,
    /// Links that lead to it.
    pub links: u32,
    /// Added to its sum.
    pub bias: f32,
}

/// A link.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Link {
    /// The node that it comes from.
    pub from: u32,
    /// The factor of the link.
    pub weight: f32,
}

/// The slope of a node of a graph: steeper than the plain tangent, as in Stanley & Miikkulainen (2002), whose sigmoid
/// `1 / (1 + exp(-4.9 x))` this is, stretched from -1 to 1.
pub(crate) const SLOPE: f32 = 2.45;

impl Graph {
    /// The graph of these nodes and links. None where a node is named that is not there, or the counts do not agree.
    pub fn new(
        recurrent: bool,
        inputs: usize,
        outputs: usize,
        order: Vec<GraphNode>,
        links: Vec<Link>,
    ) -> Option<Self> {
        let count = inputs + order.len();
        let mut seen = vec![false; count];
        for node in &order {
            let place = node.node as usize;
            if place < inputs || place >= count || seen[place] {
                return None;
            }
            seen[place] = true;
        }
        let led: usize = order.iter().map(|node| node.links as usize).sum();
        let fits =
            order.len() >= outputs && led == links.len() && links.iter().all(|link| (link.from as usize) < count);
        fits.then_some(Self { recurrent, inputs, outputs, order, links })
    }

    /// Whether a signal passes one link a time.
    pub fn is_recurrent(&self) -> bool {
        self.recurrent
    }

    /// The nodes that are computed, in the order in which they are, and all links.
    pub fn parts(&self) -> (&[GraphNode], &[Link]) {
        (&self.order, &self.links)
    }

    #[inline]
    pub(crate) fn forward<'m>(&self, inputs: &[f32], memory: &'m mut Memory) -> &'m [f32] {
        assert_eq!(inputs.len(), self.inputs, "a network reads as many numbers as it has inputs");
        let count = self.inputs + self.order.len();
        memory.now.resize(count, 0.0);
        memory.now[..self.inputs].copy_from_slice(inputs);
        if self.recurrent {
            memory.next.resize(count, 0.0);
        }
        let mut links = self.links.as_slice();
        for node in &self.order {
            let (to_it, rest) = links.split_at(node.links as usize);
            links = rest;
            let sum = to_it.iter().fold(node.bias, |sum, link| sum + link.weight * memory.now[link.from as usize]);
            let outputs = if self.recurrent { &mut memory.next } else { &mut memory.now };
            outputs[node.node as usize] = tanh(SLOPE * sum);
        }
        if self.recurrent {
            std::mem::swap(&mut memory.now, &mut memory.next);
        }
        &memory.now[self.inputs..self.inputs + self.outputs]
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn node(node: u32, links: u32, bias: f32) -> GraphNode {
        GraphNode { node, links, bias }
    }

    #[test]
    fn a_loop_carries_what_was_before() {
        // One input (0), one output (1) that adds its own last value to the input.
        let links = vec![Link { from: 0, weight: 0.1 }, Link { from: 1, weight: 1.0 }];
        let graph = Graph::new(true, 1, 1, vec![node(1, 2, 0.0)], links).unwrap();
        let mut memory = Memory::default();
        let mut last = 0.0_f32;
        for _ in 0..5 {
            let expected = tanh(SLOPE * (0.1 + last));
            assert_eq!(graph.forward(&[1.0], &mut memory), [expected]);
            last = expected;
        }
        memory.forget();
        assert_eq!(graph.forward(&[1.0], &mut memory), [tanh(SLOPE * 0.1)]);
    }

    #[test]
    fn a_signal_passes_the_whole_network_at_once_or_one_link_a_time() {
        // An input, a hidden node (2), an output (1).
        let links = vec![Link { from: 0, weight: 1.0 }, Link { from: 2, weight: 1.0 }];
        let order = vec![node(2, 1, 0.0), node(1, 1, 0.0)];
        let outputs = |recurrent: bool| {
            let graph = Graph::new(recurrent, 1, 1, order.clone(), links.clone()).unwrap();
            let mut memory = Memory::default();
            [0.5, 0.5, 0.5].map(|x| graph.forward(&[x], &mut memory)[0])
        };
        let whole = tanh(SLOPE * tanh(SLOPE * 0.5));
        assert_eq!(outputs(false), [whole; 3]);
        assert_eq!(outputs(true), [0.0, whole, whole]);
    }

    #[test]
    fn a_graph_that_names_what_is_not_there_is_refused() {
        let link = |from| Link { from, weight: 1.0 };
        assert!(Graph::new(false, 1, 1, vec![node(1, 1, 0.0)], vec![link(2)]).is_none());
        assert!(Graph::new(false, 1, 1, vec![node(0, 1, 0.0)], vec![link(0)]).is_none());
        assert!(Graph::new(false, 1, 1, vec![node(1, 2, 0.0)], vec![link(0)]).is_none());
        assert!(Graph::new(false, 1, 2, vec![node(1, 1, 0.0)], vec![link(0)]).is_none());
        assert!(Graph::new(false, 1, 1, vec![node(1, 1, 0.0)], vec![link(0)]).is_some());
    }
}
