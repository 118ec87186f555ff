//! The open format safetensors: named arrays of numbers, with a header in JSON.

use std::collections::HashMap;

use safetensors::tensor::{Dtype, SafeTensors, TensorView, serialize};

use super::{Body, Gives, Tape, Weights, WeightsError, content};
use crate::{Activation, Dense, Graph, GraphNode, Link, Network};

/// The prefix of earlier states' arrays, before their share of the training.
const EARLIER: &str = "earlier";

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

/// The file that holds these weights.
pub(super) fn write(weights: &Weights) -> Vec<u8> {
    let mut facts = vec![("actions", weights.actions.join(",")), ("observation", weights.observation.join(","))];
    let arrays = match &weights.body {
        Body::Network(Network::Dense(network)) => {
            facts.push(("kind", "dense".into()));
            facts.push(("activation", network.activation().name().into()));
            facts.push(("gives", weights.gives.name().into()));
            if !weights.earlier.is_empty() {
                let shares: Vec<String> = weights.earlier.iter().map(|(share, _)| share.to_string()).collect();
                facts.push((EARLIER, shares.join(",")));
            }
            let earlier = weights.earlier.iter().enumerate();
            let earlier =
                earlier.flat_map(|(place, (_, network))| dense_arrays(network, &format!("{EARLIER}.{place}.")));
            dense_arrays(network, "").into_iter().chain(earlier).collect()
        }
        Body::Network(Network::Graph(graph)) => {
            facts.push(("kind", "graph".into()));
            facts.push(("activation", "tanh(2.45 x)".into()));
            facts.push(("update", if graph.is_recurrent() { "together" } else { "in order" }.into()));
            graph_arrays(graph)
        }
        Body::Tape(tape) => {
            facts.push(("kind", "tape".into()));
            let steps = tape.values.len() / tape.width.max(1);
            vec![floats("tape".into(), vec![steps, tape.width], tape.values.iter().copied())]
        }
    };
    let views: Vec<_> = arrays.iter().filter_map(Array::view).collect();
    let body = serialize(views, None).expect("every array is as long as its shape says");
    with_header(&body, &facts)
}

/// Reads a file. Errs with the problem.
pub(super) fn read(bytes: &[u8]) -> Result<Weights, WeightsError> {
    let wrong = |error: safetensors::SafeTensorError| WeightsError::Format("safetensors", error.to_string());
    let (_, header) = SafeTensors::read_metadata(bytes).map_err(wrong)?;
    let arrays = SafeTensors::deserialize(bytes).map_err(wrong)?;
    let facts = header.metadata().clone().unwrap_or_default();
    let list = |key: &str| -> Vec<String> {
        let text = facts.get(key).map(String::as_str).unwrap_or_default();
        text.split(',').filter(|name| !name.is_empty()).map(String::from).collect()
    };
    let body = match facts.get("kind").map(String::as_str) {
        Some("dense") => Body::Network(Network::Dense(dense(&arrays, &facts, "")?)),
        Some("graph") => {
            let (inputs, outputs) = (list("observation").len(), list("actions").len());
            let recurrent = facts.get("update").is_some_and(|update| update == "together");
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
        earlier.push((share, dense(&arrays, &facts, &format!("{EARLIER}.{place}."))?));
    }
    let gives = Gives::named(facts.get("gives").map(String::as_str).unwrap_or_default());
    Ok(Weights { observation: list("observation"), actions: list("actions"), gives, body, earlier })
}

/// The arrays of a network of layers, their names after a prefix.
fn dense_arrays(dense: &Dense, prefix: &str) -> Vec<Array> {
    let mut all = Vec::new();
    for (layer, ((weights, biases), sizes)) in dense.layers().zip(dense.sizes().windows(2)).enumerate() {
        let (inputs, outputs) = (sizes[0], sizes[1]);
        // Output by output, as most libraries have it.
        let turned = (0..outputs * inputs).map(|place| weights[place % inputs * outputs + place / inputs]);
        all.push(floats(format!("{prefix}layers.{layer}.weight"), vec![outputs, inputs], turned));
        all.push(floats(format!("{prefix}layers.{layer}.bias"), vec![outputs], biases.iter().copied()));
    }
    all
}

fn graph_arrays(graph: &Graph) -> Vec<Array> {
    let (nodes, links) = graph.parts();
    vec![
        wholes("nodes", &nodes.iter().map(|node| node.node).collect::<Vec<_>>()),
        wholes("links_to_node", &nodes.iter().map(|node| node.links).collect::<Vec<_>>()),
        floats("biases".into(), vec![nodes.len()], nodes.iter().map(|node| node.bias)),
        wholes("links_from", &links.iter().map(|link| link.from).collect::<Vec<_>>()),
        floats("link_weights".into(), vec![links.len()], links.iter().map(|link| link.weight)),
    ]
}

/// Writes facts into the header in order of name: the library would use the order of a hash map.
fn with_header(file: &[u8], facts: &[(&str, String)]) -> Vec<u8> {
    let length =
        u64::from_le_bytes(file[..8].try_into().expect("a file begins with the length of its header")) as usize;
    let header = String::from_utf8_lossy(&file[8..8 + length]).trim_end().to_string();
    let mut facts = facts.to_vec();
    facts.sort();
    let quoted = |text: &str| format!("\"{}\"", text.replace('\\', "\\\\").replace('"', "\\\""));
    let pairs: Vec<String> = facts.iter().map(|(key, value)| format!("{}:{}", quoted(key), quoted(value))).collect();
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

fn dense(arrays: &SafeTensors, facts: &HashMap<String, String>, prefix: &str) -> Result<Dense, WeightsError> {
    let word = facts.get("activation").map(String::as_str).unwrap_or_default();
    let activation = Activation::ALL.into_iter().find(|activation| activation.name() == word);
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
    let whole = |name: &str| array(arrays, name, Dtype::U32, u32::from_le_bytes).map(|values| values.1);
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
