//! Networks and tapes as files, in the open format safetensors: named arrays of numbers, with a header in JSON.

use std::collections::HashMap;

use safetensors::tensor::{Dtype, SafeTensors, TensorView, serialize};
use thiserror::Error;

use crate::{Activation, Dense, Graph, GraphNode, Link, Network};

/// A sequence of actions that is played whatever happens.
#[derive(Clone, Debug, PartialEq)]
pub struct Tape {
    /// Numbers of each step.
    pub width: usize,
    /// The steps one after the other, each number in `-1..=1`.
    pub values: Vec<f32>,
}

/// What a file of weights holds.
#[derive(Clone, Debug, PartialEq)]
pub struct Weights {
    /// Names of what is read, in order; none of a tape.
    pub observation: Vec<String>,
    /// Names of what is given, in order.
    pub actions: Vec<String>,
    /// What the numbers mean that are given for options.
    pub gives: Gives,
    /// The numbers.
    pub body: Body,
    /// What a network of layers was earlier in its training, each with the share of the training by then, in order.
    pub earlier: Vec<(f64, Dense)>,
}

/// What the numbers mean that a network gives for options.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Gives {
    /// Nothing but an order: the largest is taken.
    #[default]
    Scores,
    /// Logarithms of the chances with which it took them while it learned, up to a constant.
    Chances,
    /// What each is worth, in rewards.
    Values,
}

impl Gives {
    const ALL: [Self; 3] = [Self::Scores, Self::Chances, Self::Values];

    fn name(self) -> &'static str {
        match self {
            Self::Scores => "scores",
            Self::Chances => "log chances",
            Self::Values => "values",
        }
    }
}

/// The share of the training by which a network was what it is in the file: the arrays of the others are named after it.
const EARLIER: &str = "earlier";

/// The numbers of a file.
#[derive(Clone, Debug, PartialEq)]
#[expect(missing_docs, reason = "what there is")]
pub enum Body {
    Network(Network),
    Tape(Tape),
}

/// Why a file of weights cannot be used.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum WeightsError {
    /// The file cannot be read as such.
    #[error("it is not a safetensors file: {0}")]
    Format(String),
    /// A part of it is missing or of the wrong shape.
    #[error("it holds no network or tape that can be used: {0}")]
    Content(String),
}

fn content(what: impl Into<String>) -> WeightsError {
    WeightsError::Content(what.into())
}

/// One array on its way into a file.
struct Array {
    name: String,
    shape: Vec<usize>,
    bytes: Vec<u8>,
    kind: Dtype,
}

impl Array {
    fn view(&self) -> Option<(&str, TensorView<'_>)> {
        let view = TensorView::new(self.kind, self.shape.clone(), &self.bytes).ok()?;
        Some((self.name.as_str(), view))
    }
}

fn floats(name: String, shape: Vec<usize>, values: impl Iterator<Item = f32>) -> Array {
    Array { name, shape, bytes: values.flat_map(f32::to_le_bytes).collect(), kind: Dtype::F32 }
}

fn wholes(name: &str, values: &[u32]) -> Array {
    let bytes = values.iter().flat_map(|x| x.to_le_bytes()).collect();
    Array { name: name.into(), shape: vec![values.len()], bytes, kind: Dtype::U32 }
}

impl Weights {
    /// The file that holds it: the same bytes for the same weights.
    ///
    /// # Panics
    /// Never: every array is as long as its shape says.
    pub fn to_bytes(&self) -> Vec<u8> {
        let mut told = vec![("actions", self.actions.join(",")), ("observation", self.observation.join(","))];
        let arrays = match &self.body {
            Body::Network(Network::Dense(own)) => {
                told.push(("kind", "dense".into()));
                told.push(("activation", own.activation().name().into()));
                told.push(("gives", self.gives.name().into()));
                if !self.earlier.is_empty() {
                    let shares: Vec<String> = self.earlier.iter().map(|(share, _)| share.to_string()).collect();
                    told.push((EARLIER, shares.join(",")));
                }
                let earlier = self.earlier.iter().enumerate();
                let earlier = earlier.flat_map(|(place, (_, own))| dense_arrays(own, &format!("{EARLIER}.{place}.")));
                dense_arrays(own, "").into_iter().chain(earlier).collect()
            }
            Body::Network(Network::Graph(own)) => {
                told.push(("kind", "graph".into()));
                told.push(("activation", "tanh(2.45 x)".into()));
                told.push(("update", if own.is_recurrent() { "together" } else { "in order" }.into()));
                graph_arrays(own)
            }
            Body::Tape(own) => {
                told.push(("kind", "tape".into()));
                let steps = own.values.len() / own.width.max(1);
                vec![floats("tape".into(), vec![steps, own.width], own.values.iter().copied())]
            }
        };
        let views: Vec<_> = arrays.iter().filter_map(Array::view).collect();
        let body = serialize(views, None).expect("every array is as long as its shape says");
        with_header(&body, &told)
    }

    /// Reads a file. Errs with what is wrong with it.
    pub fn from_bytes(bytes: &[u8]) -> Result<Self, WeightsError> {
        let wrong = |error: safetensors::SafeTensorError| WeightsError::Format(error.to_string());
        let (_, header) = SafeTensors::read_metadata(bytes).map_err(wrong)?;
        let arrays = SafeTensors::deserialize(bytes).map_err(wrong)?;
        let told = header.metadata().clone().unwrap_or_default();
        let list = |key: &str| -> Vec<String> {
            let text = told.get(key).map(String::as_str).unwrap_or_default();
            text.split(',').filter(|name| !name.is_empty()).map(String::from).collect()
        };
        let body = match told.get("kind").map(String::as_str) {
            Some("dense") => Body::Network(Network::Dense(dense(&arrays, &told, "")?)),
            Some("graph") => {
                let (inputs, outputs) = (list("observation").len(), list("actions").len());
                let recurrent = told.get("update").is_some_and(|update| update == "together");
                Body::Network(Network::Graph(graph(&arrays, recurrent, inputs, outputs)?))
            }
            Some("tape") => Body::Tape(tape(&arrays)?),
            Some(other) => return Err(content(format!("its kind is `{other}`, not dense, graph or tape"))),
            None => return Err(content("its header has no `kind`")),
        };
        let mut earlier = Vec::new();
        for (place, text) in list(EARLIER).iter().enumerate() {
            let share = text.parse::<f64>().ok().filter(|share| (0.0..=1.0).contains(share));
            let share = share.ok_or_else(|| content(format!("`{text}` is no share of a training")))?;
            earlier.push((share, dense(&arrays, &told, &format!("{EARLIER}.{place}."))?));
        }
        let word = told.get("gives").map(String::as_str).unwrap_or_default();
        let gives = Gives::ALL.into_iter().find(|own| own.name() == word).unwrap_or_default();
        let own = Self { observation: list("observation"), actions: list("actions"), gives, body, earlier };
        own.agrees().then_some(own).ok_or_else(|| content("its names are not as many as its inputs and outputs"))
    }

    fn agrees(&self) -> bool {
        let (read, given) = (self.observation.len(), self.actions.len());
        if !self.earlier.iter().all(|(_, own)| own.inputs() == read && own.outputs() == given) {
            return false;
        }
        match &self.body {
            Body::Network(own) => own.inputs() == self.observation.len() && own.outputs() == self.actions.len(),
            Body::Tape(own) => own.width == self.actions.len(),
        }
    }
}

/// The arrays of a network of layers, their names after a prefix.
fn dense_arrays(own: &Dense, prefix: &str) -> Vec<Array> {
    let mut all = Vec::new();
    for (layer, ((weights, biases), sizes)) in own.layers().zip(own.sizes().windows(2)).enumerate() {
        let (inputs, outputs) = (sizes[0], sizes[1]);
        // Output by output, as most libraries have it.
        let turned = (0..outputs * inputs).map(|place| weights[place % inputs * outputs + place / inputs]);
        all.push(floats(format!("{prefix}layers.{layer}.weight"), vec![outputs, inputs], turned));
        all.push(floats(format!("{prefix}layers.{layer}.bias"), vec![outputs], biases.iter().copied()));
    }
    all
}

fn graph_arrays(own: &Graph) -> Vec<Array> {
    let (nodes, links) = own.parts();
    vec![
        wholes("nodes", &nodes.iter().map(|node| node.node).collect::<Vec<_>>()),
        wholes("links_to_node", &nodes.iter().map(|node| node.links).collect::<Vec<_>>()),
        floats("biases".into(), vec![nodes.len()], nodes.iter().map(|node| node.bias)),
        wholes("links_from", &links.iter().map(|link| link.from).collect::<Vec<_>>()),
        floats("link_weights".into(), vec![links.len()], links.iter().map(|link| link.weight)),
    ]
}

/// Puts what is told into the header, in order of name: the library would take the order of a hash map.
fn with_header(file: &[u8], told: &[(&str, String)]) -> Vec<u8> {
    let length =
        u64::from_le_bytes(file[..8].try_into().expect("a file begins with the length of its header")) as usize;
    let header = String::from_utf8_lossy(&file[8..8 + length]).trim_end().to_string();
    let mut told = told.to_vec();
    told.sort();
    let quoted = |text: &str| format!("\"{}\"", text.replace('\\', "\\\\").replace('"', "\\\""));
    let pairs: Vec<String> = told.iter().map(|(key, value)| format!("{}:{}", quoted(key), quoted(value))).collect();
    let rest = header.strip_prefix('{').unwrap_or(&header);
    let comma = if rest.starts_with('}') { "" } else { "," };
    let mut header = format!("{{\"__metadata__\":{{{}}}{comma}{rest}", pairs.join(","));
    header.extend(std::iter::repeat_n(' ', header.len().next_multiple_of(8) - header.len()));
    let mut all = (header.len() as u64).to_le_bytes().to_vec();
    all.extend_from_slice(header.as_bytes());
    all.extend_from_slice(&file[8 + length..]);
    all
}

/// An array of a file: its shape, and its values.
fn array<T>(
    arrays: &SafeTensors,
    name: &str,
    kind: Dtype,
    value: fn([u8; 4]) -> T,
) -> Result<(Vec<usize>, Vec<T>), WeightsError> {
    let view = arrays.tensor(name).map_err(|_| content(format!("there is no array `{name}`")))?;
    if view.dtype() != kind {
        return Err(content(format!("the array `{name}` is not of {kind:?}")));
    }
    let values = view.data().chunks_exact(4).map(|four| value([four[0], four[1], four[2], four[3]])).collect();
    Ok((view.shape().to_vec(), values))
}

fn numbers(arrays: &SafeTensors, name: &str) -> Result<(Vec<usize>, Vec<f32>), WeightsError> {
    let (shape, values) = array(arrays, name, Dtype::F32, f32::from_le_bytes)?;
    if values.iter().all(|x| x.is_finite()) {
        Ok((shape, values))
    } else {
        Err(content(format!("the array `{name}` holds numbers that are not finite")))
    }
}

fn dense(arrays: &SafeTensors, told: &HashMap<String, String>, prefix: &str) -> Result<Dense, WeightsError> {
    let word = told.get("activation").map(String::as_str).unwrap_or_default();
    let activation = Activation::ALL.into_iter().find(|own| own.name() == word);
    let activation = activation.ok_or_else(|| content(format!("its activation is `{word}`, not tanh or relu")))?;
    let (mut sizes, mut parameters) = (Vec::new(), Vec::new());
    for layer in 0.. {
        let name = format!("{prefix}layers.{layer}.weight");
        if layer > 0 && arrays.tensor(&name).is_err() {
            break;
        }
        let (shape, weights) = numbers(arrays, &name)?;
        let (_, biases) = numbers(arrays, &format!("{prefix}layers.{layer}.bias"))?;
        let [outputs, inputs] = shape[..] else { return Err(content(format!("`{name}` is not a matrix"))) };
        if sizes.is_empty() {
            sizes.push(inputs);
        }
        if sizes.last() != Some(&inputs) || biases.len() != outputs || outputs == 0 {
            return Err(content(format!("`{name}` does not fit the layers around it")));
        }
        parameters.extend((0..inputs * outputs).map(|place| weights[place % outputs * inputs + place / outputs]));
        parameters.extend(biases);
        sizes.push(outputs);
    }
    Dense::new(sizes, activation, parameters).ok_or_else(|| content("its layers do not fit together"))
}

fn graph(arrays: &SafeTensors, recurrent: bool, inputs: usize, outputs: usize) -> Result<Graph, WeightsError> {
    let whole = |name: &str| array(arrays, name, Dtype::U32, u32::from_le_bytes).map(|own| own.1);
    let (nodes, counts, from) = (whole("nodes")?, whole("links_to_node")?, whole("links_from")?);
    let (biases, weights) = (numbers(arrays, "biases")?.1, numbers(arrays, "link_weights")?.1);
    let whole = nodes.len() == counts.len() && nodes.len() == biases.len() && from.len() == weights.len();
    let each = nodes.into_iter().zip(counts).zip(biases);
    let order = each.map(|((node, links), bias)| GraphNode { node, links, bias }).collect();
    let links = from.into_iter().zip(weights).map(|(from, weight)| Link { from, weight }).collect();
    let graph = if whole { Graph::new(recurrent, inputs, outputs, order, links) } else { None };
    graph.ok_or_else(|| content("its nodes and links do not fit together"))
}

fn tape(arrays: &SafeTensors) -> Result<Tape, WeightsError> {
    let (shape, values) = numbers(arrays, "tape")?;
    let [steps, width] = shape[..] else { return Err(content("`tape` is not a matrix")) };
    if steps == 0 || width == 0 || values.iter().any(|x| !(-1.0..=1.0).contains(x)) {
        return Err(content("`tape` is empty, or has numbers that are not from -1 to 1"));
    }
    Ok(Tape { width, values })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{Topology, TopologySettings};
    use inkpot_core::Chance;

    fn named(prefix: &str, count: usize) -> Vec<String> {
        (0..count).map(|place| format!("{prefix}{place}")).collect()
    }

    fn samples() -> Vec<Weights> {
        let sizes = vec![4, 5, 2];
        let mut chance = Chance::from_seed(1);
        let drawn = (0..Dense::count(&sizes)).map(|_| chance.normal() as f32).collect();
        let dense = Dense::new(sizes, Activation::Relu, drawn).unwrap();
        let settings = TopologySettings {
            population: 2,
            inputs: 4,
            outputs: 2,
            recurrent: true,
            add_node: 1.0,
            add_link: 1.0,
            mutation_rate: 1.0,
            mutation_strength: 0.5,
            species: 1,
            pressure: 1.0,
            weight_distance: 0.4,
            renew: false,
        };
        let graph = Topology::new(settings, 1).ask().remove(0);
        let tape = Tape { width: 2, values: vec![0.5, -1.0, 0.25, 1.0] };
        let bodies = [Body::Network(Network::Dense(dense)), Body::Network(Network::Graph(graph)), Body::Tape(tape)];
        let weights = |body: Body| {
            let observation = if matches!(body, Body::Tape(_)) { Vec::new() } else { named("in", 4) };
            let earlier = match &body {
                Body::Network(Network::Dense(own)) => vec![(0.0, own.clone()), (0.25, own.clone())],
                _ => Vec::new(),
            };
            let gives = if earlier.is_empty() { Gives::Scores } else { Gives::Chances };
            Weights { observation, actions: named("out", 2), gives, body, earlier }
        };
        bodies.into_iter().map(weights).collect()
    }

    #[test]
    fn what_is_written_reads_back_and_is_written_the_same() {
        for own in samples() {
            let bytes = own.to_bytes();
            let back = Weights::from_bytes(&bytes).unwrap();
            assert_eq!(back, own);
            assert_eq!(back.to_bytes(), bytes);
        }
    }

    #[test]
    fn a_damaged_file_is_an_error_and_never_a_panic() {
        for own in samples() {
            let bytes = own.to_bytes();
            for cut in 0..bytes.len() {
                assert!(Weights::from_bytes(&bytes[..cut]).is_err(), "cut at {cut}");
                let mut flipped = bytes.clone();
                flipped[cut] ^= 0x55;
                let _ = Weights::from_bytes(&flipped);
            }
        }
    }
}
