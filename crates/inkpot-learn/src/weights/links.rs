//! A network of nodes and links as operators of ONNX: nodes by how many links lead to them from an input, all of one depth
//! together, each depth a sum of products with those before it.

use super::proto::{ACTIONS, Node, OBSERVATION, Tensor, node, tensor};
use super::{WeightsError, content};
use crate::network::{Graph, SLOPE};

/// The place of a node: its depth, 0 for an input, and its index at that depth.
type Spot = (usize, usize);

/// Returns the operators and constants of a graph. Errs if links lead back, as then more than the observation decides.
pub(super) fn of_graph(graph: &Graph) -> Result<(Vec<Node>, Vec<Tensor>), WeightsError> {
    if graph.is_recurrent() {
        return Err(WeightsError::NoLayers("a network that remembers"));
    }
    let (spots, widths) = spots(graph)?;
    let mut built = Built::default();
    for depth in 1..widths.len() {
        let (mut weights, mut biases) = (vec![Vec::new(); depth], vec![0.0; widths[depth]]);
        each_node(graph, |place, bias, links| {
            let (at, column) = spots[place];
            if at != depth {
                return;
            }
            biases[column] = SLOPE * bias;
            for link in links {
                let (from, row) = spots[link.from as usize];
                weights[from].resize(widths[from] * widths[depth], 0.0);
                weights[from][row * widths[depth] + column] += SLOPE * link.weight;
            }
        });
        // A node that nothing leads to gives its bias.
        weights[0].resize(widths[0] * widths[depth], 0.0);
        let sums = built.sums(&format!("depths.{depth}.sums"), &weights, &widths[..=depth], Some(&biases));
        built.nodes.push(node("Tanh", &[&sums], &values(depth)));
    }
    // What it gives: outputs from wherever they stand.
    let mut chosen = vec![Vec::new(); widths.len()];
    let outputs = graph.outputs;
    for output in 0..outputs {
        let (depth, row) = spots[graph.inputs + output];
        chosen[depth].resize(widths[depth] * outputs, 0.0);
        chosen[depth][row * outputs + output] = 1.0;
    }
    let ends: Vec<usize> = widths.iter().copied().chain([outputs]).collect();
    let last = built.sums(ACTIONS, &chosen, &ends, None);
    debug_assert_eq!(last, ACTIONS);
    Ok((built.nodes, built.constants))
}

/// Returns the name of the outputs at a depth.
fn values(depth: usize) -> String {
    if depth == 0 { OBSERVATION.into() } else { format!("depths.{depth}.values") }
}

/// Calls this with each node that is computed: its place among all, its bias and the links to it.
fn each_node(graph: &Graph, mut with: impl FnMut(usize, f32, &[crate::Link])) {
    let (order, mut links) = graph.parts();
    for computed in order {
        let (to_it, rest) = links.split_at(computed.links as usize);
        links = rest;
        with(computed.node as usize, computed.bias, to_it);
    }
}

/// Returns the place of each node and the number of nodes a depth. Errs if a link comes from a node that is computed
/// later.
fn spots(graph: &Graph) -> Result<(Vec<Spot>, Vec<usize>), WeightsError> {
    let (order, _) = graph.parts();
    let mut spots: Vec<Option<Spot>> = (0..graph.inputs).map(|place| Some((0, place))).collect();
    spots.resize(graph.inputs + order.len(), None);
    let (mut widths, mut back) = (vec![graph.inputs], false);
    each_node(graph, |place, _, links| {
        let depths = links.iter().map(|link| spots[link.from as usize].map(|(depth, _)| depth));
        let Some(deepest) = depths.collect::<Option<Vec<usize>>>().map(|all| all.into_iter().max().unwrap_or(0)) else {
            back = true;
            return;
        };
        widths.resize(widths.len().max(deepest + 2), 0);
        spots[place] = Some((deepest + 1, widths[deepest + 1]));
        widths[deepest + 1] += 1;
    });
    let all = spots.into_iter().collect::<Option<Vec<Spot>>>().filter(|_| !back);
    all.map(|spots| (spots, widths)).ok_or_else(|| content("a link comes from a node that is computed later"))
}

#[derive(Default)]
struct Built {
    nodes: Vec<Node>,
    constants: Vec<Tensor>,
}

impl Built {
    /// Adds the sums of each depth's outputs times its weights (rows of that depth by columns, none if empty), and of
    /// biases; the last of `widths` counts the columns. Returns the output's name, which is `name`.
    fn sums(&mut self, name: &str, weights: &[Vec<f32>], widths: &[usize], biases: Option<&[f32]>) -> String {
        let columns = widths[widths.len() - 1];
        let there: Vec<usize> = (0..weights.len()).filter(|depth| !weights[*depth].is_empty()).collect();
        let mut sum: Option<String> = None;
        for (number, depth) in there.iter().enumerate() {
            let matrix = format!("{name}.weight.{depth}");
            self.constants.push(tensor(&matrix, &[widths[*depth], columns], &weights[*depth]));
            let is_last = number + 1 == there.len();
            let named =
                |part: &str, is_last: bool| if is_last { name.into() } else { format!("{name}.{part}.{depth}") };
            let from = values(*depth);
            sum = Some(match (sum, biases) {
                (None, Some(biases)) => {
                    let bias = format!("{name}.bias");
                    self.constants.push(tensor(&bias, &[columns], biases));
                    let to: String = named("sum", is_last);
                    self.nodes.push(node("Gemm", &[&from, &matrix, &bias], &to));
                    to
                }
                (None, None) => {
                    let to: String = named("sum", is_last);
                    self.nodes.push(node("MatMul", &[&from, &matrix], &to));
                    to
                }
                (Some(before), _) => {
                    let product = format!("{name}.product.{depth}");
                    self.nodes.push(node("MatMul", &[&from, &matrix], &product));
                    let to: String = named("sum", is_last);
                    self.nodes.push(node("Add", &[&before, &product], &to));
                    to
                }
            });
        }
        sum.unwrap_or_default()
    }
}

#[cfg(test)]
mod tests {
    use std::collections::HashMap;

    use inkpot_core::Chance;
    use prost::Message;

    use super::super::proto::Model;
    use super::super::{Body, Gives, Weights};
    use super::*;
    use crate::{GraphNode, Link, Memory, Network};

    /// Computes a model's output for one observation, operator by operator.
    fn played(model: &Model, observed: &[f32]) -> Vec<f32> {
        let graph = model.graph.as_ref().expect("a graph");
        let numbers = |tensor: &Tensor| -> Vec<f32> {
            tensor.raw_data.chunks_exact(4).map(|four| f32::from_le_bytes(four.try_into().expect("four"))).collect()
        };
        let constants: HashMap<&str, Vec<f32>> =
            graph.initializer.iter().map(|tensor| (tensor.name.as_str(), numbers(tensor))).collect();
        let mut known: HashMap<&str, Vec<f32>> = HashMap::from([(OBSERVATION, observed.to_vec())]);
        for node in &graph.node {
            let input = &known[node.input[0].as_str()];
            let product = || -> Vec<f32> {
                let matrix = &constants[node.input[1].as_str()];
                let columns = matrix.len() / input.len();
                let sum = |column: usize| (0..input.len()).map(|row| input[row] * matrix[row * columns + column]).sum();
                (0..columns).map(sum).collect()
            };
            let added = |a: Vec<f32>, b: &[f32]| a.iter().zip(b).map(|(a, b)| a + b).collect();
            let given = match node.op_type.as_str() {
                "Gemm" => added(product(), &constants[node.input[2].as_str()]),
                "MatMul" => product(),
                "Add" => added(input.clone(), &known[node.input[1].as_str()]),
                "Tanh" => input.iter().map(|x| x.tanh()).collect(),
                other => panic!("{other}"),
            };
            known.insert(&node.output[0], given);
        }
        known[ACTIONS].clone()
    }

    fn weights(graph: Graph) -> Weights {
        let named = |prefix: &str, count: usize| (0..count).map(|place| format!("{prefix}{place}")).collect();
        Weights {
            observation: named("in", graph.inputs),
            actions: named("out", graph.outputs),
            gives: Gives::Scores,
            body: Body::Network(Network::Graph(graph)),
            earlier: Vec::new(),
        }
    }

    #[test]
    fn a_model_of_nodes_and_links_gives_what_the_network_does() {
        let mut chance = Chance::from_seed(6);
        for _ in 0..50 {
            // Inputs 0 to 2, outputs 3 and 4, hidden 5 to 9, each linked to some of those before it.
            let (inputs, places) = (3, [5, 6, 3, 7, 8, 9, 4]);
            let (mut order, mut links) = (Vec::new(), Vec::new());
            for (number, place) in places.iter().enumerate() {
                let before = (0..inputs).chain(places[..number].iter().copied());
                let from: Vec<u32> = before.filter(|_| chance.happens(0.5)).collect();
                order.push(GraphNode { node: *place, links: from.len() as u32, bias: chance.normal() as f32 });
                links.extend(from.iter().map(|from| Link { from: *from, weight: chance.normal() as f32 }));
            }
            let graph = Graph::new(false, 3, 2, order, links).expect("a graph");
            let file = weights(graph.clone());
            let model = Model::decode(file.to_onnx(&[]).expect("it is written").as_slice()).expect("a model");
            let observed: Vec<f32> = (0..3).map(|_| chance.between(-1.0, 1.0) as f32).collect();
            let mut memory = Memory::default();
            let (expected, given) = (graph.forward(&observed, &mut memory), played(&model, &observed));
            assert_eq!(expected.len(), given.len());
            assert!(expected.iter().zip(&given).all(|(a, b)| (a - b).abs() < 2e-5), "{expected:?} {given:?}");
        }
    }

    #[test]
    fn what_remembers_is_refused() {
        let order = vec![GraphNode { node: 1, links: 1, bias: 0.0 }];
        let link = |from| vec![Link { from, weight: 1.0 }];
        let recurrent = Graph::new(true, 1, 1, order.clone(), link(1)).expect("a graph");
        assert!(weights(recurrent).to_onnx(&[]).unwrap_err().to_string().contains("remembers"));
        let back = Graph::new(false, 1, 1, order, link(1)).expect("a graph");
        assert!(weights(back).to_onnx(&[]).unwrap_err().to_string().contains("computed later"));
    }
}
