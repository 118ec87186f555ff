//! The genome of a network: hidden nodes, and links with their marks.

use std::collections::BTreeMap;

use inkpot_core::Chance;
use serde::{Deserialize, Serialize};

use super::TopologySettings;
use super::innovation::{Innovations, Mark, NodeId};
use crate::{Graph, GraphNode, Link};

/// A hidden node.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub(super) struct Hidden {
    pub(super) id: NodeId,
    /// Its place between the inputs, 0, and the outputs, 1: half-way along the link that it split.
    pub(super) depth: f64,
}

/// A link.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub(super) struct LinkGene {
    pub(super) mark: Mark,
    pub(super) from: NodeId,
    pub(super) to: NodeId,
    pub(super) weight: f64,
    pub(super) enabled: bool,
}

/// A genome: hidden nodes in order of their numbers, links in order of their marks.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(super) struct GraphGenome {
    pub(super) hidden: Vec<Hidden>,
    pub(super) links: Vec<LinkGene>,
}

/// Share of the weights that are changed a little; the others are drawn anew.
const PERTURBED: f64 = 0.9;
/// Weights stay within this.
const MOST_WEIGHT: f64 = 8.0;
/// Tries to find two nodes that have no link yet.
const TRIES: usize = 20;
/// Smaller genomes are not normalised by their size.
const SMALL: usize = 20;

impl GraphGenome {
    /// Every input and the constant, linked to every output.
    pub(super) fn minimal(settings: &TopologySettings, innovations: &mut Innovations, chance: &mut Chance) -> Self {
        let (inputs, outputs) = (settings.inputs as NodeId, settings.outputs as NodeId);
        let mut links: Vec<LinkGene> = Vec::new();
        for to in inputs + 1..inputs + 1 + outputs {
            for from in 0..=inputs {
                let mark = innovations.link(from, to);
                links.push(LinkGene { mark, from, to, weight: chance.normal(), enabled: true });
            }
        }
        links.sort_by_key(|link| link.mark);
        Self { hidden: Vec::new(), links }
    }

    fn depth(&self, node: NodeId, settings: &TopologySettings) -> f64 {
        match self.hidden.binary_search_by_key(&node, |hidden| hidden.id) {
            Ok(place) => self.hidden[place].depth,
            Err(_) if node as usize <= settings.inputs => 0.0,
            Err(_) => 1.0,
        }
    }

    pub(super) fn has_node(&self, node: NodeId) -> bool {
        self.hidden.binary_search_by_key(&node, |hidden| hidden.id).is_ok()
    }

    /// Returns the distance of two genomes: genes of only one, plus the weighted mean difference in the weights of
    /// common genes.
    pub(super) fn distance(&self, other: &Self, weight_distance: f64) -> f64 {
        let (mut a, mut b) = (self.links.iter().peekable(), other.links.iter().peekable());
        let (mut lone, mut shared, mut apart) = (0.0, 0.0, 0.0);
        while let (Some(link), Some(their)) = (a.peek(), b.peek()) {
            match link.mark.cmp(&their.mark) {
                std::cmp::Ordering::Equal => {
                    (shared, apart) = (shared + 1.0, apart + (link.weight - their.weight).abs());
                    a.next();
                    b.next();
                }
                std::cmp::Ordering::Less => {
                    lone += 1.0;
                    a.next();
                }
                std::cmp::Ordering::Greater => {
                    lone += 1.0;
                    b.next();
                }
            }
        }
        lone += (a.count() + b.count()) as f64;
        let size = self.links.len().max(other.links.len());
        let size = if size < SMALL { 1.0 } else { size as f64 };
        lone / size + if shared > 0.0 { weight_distance * apart / shared } else { 0.0 }
    }

    /// One child's changes: weights, perhaps a node, perhaps a link.
    pub(super) fn mutate(&mut self, settings: &TopologySettings, innovations: &mut Innovations, chance: &mut Chance) {
        if chance.happens(settings.mutation_rate) {
            // Of every size down to a hundredth: what is coarse finds, and what is fine keeps.
            let strength = settings.mutation_strength * libm::pow(10.0, -2.0 * chance.unit());
            let perturbed = 1.0 - (1.0 - PERTURBED) * strength / settings.mutation_strength;
            for link in &mut self.links {
                let weight = if chance.happens(perturbed) {
                    link.weight + strength * chance.normal()
                } else {
                    2.0 * chance.normal()
                };
                link.weight = weight.clamp(-MOST_WEIGHT, MOST_WEIGHT);
            }
        }
        if chance.happens(settings.add_node) {
            self.add_node(settings, innovations, chance);
        }
        if chance.happens(settings.add_link) {
            self.add_link(settings, innovations, chance);
        }
    }

    /// Splits a link by a node: the new link into it weighs 1 and the one out of it the old weight, so that little
    /// changes at first.
    fn add_node(&mut self, settings: &TopologySettings, innovations: &mut Innovations, chance: &mut Chance) {
        let enabled: Vec<usize> = (0..self.links.len()).filter(|&place| self.links[place].enabled).collect();
        if enabled.is_empty() {
            return;
        }
        let place = enabled[chance.below(enabled.len())];
        self.links[place].enabled = false;
        let LinkGene { mark, from, to, weight, .. } = self.links[place];
        let depth = f64::midpoint(self.depth(from, settings), self.depth(to, settings));
        let id = innovations.split(mark, |node| self.has_node(node));
        let at = self.hidden.partition_point(|hidden| hidden.id < id);
        self.hidden.insert(at, Hidden { id, depth });
        self.put(innovations.link(from, id), from, id, 1.0);
        self.put(innovations.link(id, to), id, to, weight);
    }

    fn add_link(&mut self, settings: &TopologySettings, innovations: &mut Innovations, chance: &mut Chance) {
        let outputs = settings.inputs as NodeId + 1..(settings.inputs + 1 + settings.outputs) as NodeId;
        let targets: Vec<NodeId> = outputs.chain(self.hidden.iter().map(|node| node.id)).collect();
        let sources: Vec<NodeId> = (0..=settings.inputs as NodeId).chain(targets.iter().copied()).collect();
        for _ in 0..TRIES {
            let (from, to) = (sources[chance.below(sources.len())], targets[chance.below(targets.len())]);
            let onward = self.depth(from, settings) < self.depth(to, settings);
            match self.links.iter_mut().find(|link| (link.from, link.to) == (from, to)) {
                Some(link) if link.enabled => continue,
                // What a node was put into: beside the way through the node it is one more.
                Some(link) => {
                    link.enabled = true;
                    return;
                }
                None if onward || settings.recurrent => {}
                None => continue,
            }
            self.put(innovations.link(from, to), from, to, chance.normal());
            return;
        }
    }

    fn put(&mut self, mark: Mark, from: NodeId, to: NodeId, weight: f64) {
        let place = self.links.partition_point(|link| link.mark < mark);
        let gene = LinkGene { mark, from, to, weight, enabled: true };
        match self.links.get_mut(place) {
            Some(link) if link.mark == mark => *link = gene,
            _ => self.links.insert(place, gene),
        }
    }

    /// The network that it describes. Links from the constant are biases; hidden nodes are computed by their depth.
    pub(super) fn graph(&self, settings: &TopologySettings) -> Graph {
        let (inputs, outputs) = (settings.inputs as NodeId, settings.outputs as NodeId);
        let constant = inputs;
        let first_output = inputs + 1;
        let places: BTreeMap<NodeId, u32> = (first_output..first_output + outputs)
            .chain(self.hidden.iter().map(|node| node.id))
            .enumerate()
            .map(|(place, id)| (id, inputs + place as u32))
            .collect();
        let mut order: Vec<NodeId> = places.keys().copied().collect();
        order.sort_by(|a, b| self.depth(*a, settings).total_cmp(&self.depth(*b, settings)).then(a.cmp(b)));
        let (mut nodes, mut links) = (Vec::new(), Vec::new());
        for id in order {
            let to_it = || self.links.iter().filter(|link| link.enabled && link.to == id);
            let bias: f64 = to_it().filter(|link| link.from == constant).map(|link| link.weight).sum();
            let before = links.len();
            let place = |from: NodeId| if from < inputs { from } else { places[&from] };
            let others = to_it().filter(|link| link.from != constant);
            links.extend(others.map(|link| Link { from: place(link.from), weight: link.weight as f32 }));
            let count = (links.len() - before) as u32;
            nodes.push(GraphNode { node: places[&id], links: count, bias: bias as f32 });
        }
        let (recurrent, inputs, outputs) = (settings.recurrent, settings.inputs, settings.outputs);
        Graph { recurrent, inputs, outputs, order: nodes, links }
    }
}
