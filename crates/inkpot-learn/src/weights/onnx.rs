//! The open format ONNX: a network of layers as a graph of operators, which any runtime can play and which can come from
//! any library. Normalisers of observations are part of the first layer.

use std::collections::HashMap;

use prost::Message;

use super::links;
use super::proto::{
    ACTIONS, Dim, Entry, FLOAT, Graph, Model, Node, OBSERVATION, OperatorSet, Shape, Tensor, TensorType, Type,
    ValueInfo, WHOLE, node, tensor,
};
use super::{Body, Gives, Weights, WeightsError, content};
use crate::{Activation, Dense, Network};

/// The version of the operators that are written.
const OPSET: i64 = 17;
/// The version of the format that came with them.
const IR_VERSION: i64 = 8;
/// The oldest operators that mean the same.
const LEAST_OPSET: i64 = 13;
/// Most figures that a layer may have.
const WIDEST: usize = 2048;
/// Most numbers that all layers may have: 64 MiB.
const MOST_PARAMETERS: usize = 1 << 24;
/// Most multiplications that putting the layers together may take: a second or two.
const MOST_PRODUCTS: usize = 1 << 30;

/// The name of a metadata entry that is read back, beside those of the inputs and outputs.
const GIVES: &str = "gives";

/// The model of a network, with these facts beside it. Errs where there is none that observations alone decide.
pub(super) fn write(file: &Weights, facts: &[(&str, String)]) -> Result<Vec<u8>, WeightsError> {
    let (nodes, constants) = match &file.body {
        Body::Network(Network::Dense(dense)) => of_layers(dense),
        Body::Network(Network::Graph(graph)) => links::of_graph(graph)?,
        Body::Tape(_) => return Err(WeightsError::NoLayers("a tape")),
    };
    let mut metadata: Vec<Entry> =
        facts.iter().map(|(key, value)| Entry { key: (*key).into(), value: value.clone() }).collect();
    metadata.push(Entry { key: OBSERVATION.into(), value: file.observation.join(",") });
    metadata.push(Entry { key: ACTIONS.into(), value: file.actions.join(",") });
    metadata.push(Entry { key: GIVES.into(), value: file.gives.name().into() });
    let graph = Graph {
        node: nodes,
        name: "policy".into(),
        initializer: constants,
        input: vec![figures(OBSERVATION, &file.observation)],
        output: vec![figures(ACTIONS, &file.actions)],
    };
    let model = Model {
        ir_version: IR_VERSION,
        producer_name: "inkpot".into(),
        graph: Some(graph),
        opset_import: vec![OperatorSet { domain: String::new(), version: OPSET }],
        metadata_props: metadata,
    };
    Ok(model.encode_to_vec())
}

/// The operators of layers one after the other, with their constants.
fn of_layers(dense: &Dense) -> (Vec<Node>, Vec<Tensor>) {
    let last = dense.sizes().len() - 2;
    let (mut nodes, mut constants, mut value) = (Vec::new(), Vec::new(), String::from(OBSERVATION));
    for (layer, ((weights, biases), sizes)) in dense.layers().zip(dense.sizes().windows(2)).enumerate() {
        let (weight, bias) = (format!("layers.{layer}.weight"), format!("layers.{layer}.bias"));
        // Input by input, as they lie.
        constants.push(tensor(&weight, &[sizes[0], sizes[1]], weights));
        constants.push(tensor(&bias, &[sizes[1]], biases));
        let sums = if layer == last { ACTIONS.into() } else { format!("layers.{layer}.sums") };
        nodes.push(node("Gemm", &[&value, &weight, &bias], &sums));
        value.clone_from(&sums);
        if layer < last {
            value = format!("layers.{layer}.values");
            nodes.push(node(operator(dense.activation()), &[&sums], &value));
        }
    }
    (nodes, constants)
}

fn operator(activation: Activation) -> &'static str {
    match activation {
        Activation::Tanh => "Tanh",
        Activation::Relu => "Relu",
    }
}

/// A matrix with a row for each of any number of looks, and a column for each of these names.
fn figures(name: &str, names: &[String]) -> ValueInfo {
    let open = Dim { value: 0, name: "looks".into() };
    let fixed = Dim { value: names.len() as i64, name: String::new() };
    let tensor = TensorType { elem_type: FLOAT, shape: Some(Shape { dim: vec![open, fixed] }) };
    ValueInfo { name: name.into(), of: Some(Type { tensor: Some(tensor) }), doc_string: names.join(", ") }
}

/// Reads a model. Errs where it is another graph than layers one after the other.
pub(super) fn read(bytes: &[u8]) -> Result<Weights, WeightsError> {
    let model = Model::decode(bytes).map_err(|error| WeightsError::Format("ONNX", error.to_string()))?;
    let graph = model.graph.as_ref().ok_or_else(|| content("it has no graph"))?;
    let opset = model.opset_import.iter().find(|opset| opset.domain.is_empty()).map_or(0, |opset| opset.version);
    if opset < LEAST_OPSET {
        return Err(content(format!("its operators are of set {opset}; {LEAST_OPSET} or later can be read")));
    }
    let dense = layers(graph)?;
    let facts: HashMap<&str, &str> =
        model.metadata_props.iter().map(|fact| (fact.key.as_str(), fact.value.as_str())).collect();
    let names = |key: &str, count: usize| match facts.get(key) {
        Some(text) => text.split(',').map(String::from).collect(),
        None => vec![String::new(); count],
    };
    Ok(Weights {
        observation: names(OBSERVATION, dense.inputs()),
        actions: names(ACTIONS, dense.outputs()),
        gives: Gives::named(facts.get(GIVES).copied().unwrap_or_default()),
        body: Body::Network(Network::Dense(dense)),
        earlier: Vec::new(),
    })
}

/// The layers of a graph: a chain of products, sums and activations, from its input to its output.
fn layers(graph: &Graph) -> Result<Dense, WeightsError> {
    let constants = constants(graph)?;
    let inputs: Vec<&ValueInfo> = graph.input.iter().filter(|input| !constants.contains_key(&*input.name)).collect();
    let ([input], [output]) = (&inputs[..], &graph.output[..]) else {
        let (read, actions) = (inputs.len(), graph.output.len());
        return Err(content(format!("it has {read} inputs and {actions} outputs, and a policy has one of each")));
    };
    let (mut value, mut sums) = (input.name.as_str(), Sums::same(width(input)?)?);
    let (mut sizes, mut parameters, mut activation) = (vec![sums.inputs], Vec::new(), None);
    let mut left = MOST_PRODUCTS;
    for node in graph.node.iter().filter(|node| node.op_type != "Constant") {
        let found = Activation::ALL.into_iter().find(|activation| operator(*activation) == node.op_type);
        match found {
            Some(operator) if node.input == [value] => {
                if activation.replace(operator).is_some_and(|earlier| earlier != operator) {
                    return Err(content("its layers have different activations"));
                }
                sizes.push(sums.outputs);
                let next = Sums::same(sums.outputs)?;
                std::mem::replace(&mut sums, next).append_to(&mut parameters)?;
            }
            _ => sums = sums.then(node, value, &constants, &mut left)?,
        }
        value = node.output.first().map(String::as_str).unwrap_or_default();
    }
    if value != output.name {
        return Err(content(format!("its output `{}` is not what its last operator gives", output.name)));
    }
    sizes.push(sums.outputs);
    sums.append_to(&mut parameters)?;
    if !parameters.iter().all(|x| x.is_finite()) {
        return Err(content("it holds numbers that are not finite"));
    }
    Dense::new(sizes, activation.unwrap_or_default(), parameters)
        .ok_or_else(|| content("its layers do not fit together"))
}

/// Figures of its input.
fn width(input: &ValueInfo) -> Result<usize, WeightsError> {
    let shape = input.of.as_ref().and_then(|of| of.tensor.as_ref()).and_then(|tensor| tensor.shape.as_ref());
    let last = shape.and_then(|shape| shape.dim.last()).map_or(0, |dim| dim.value);
    let width = usize::try_from(last).ok().filter(|width| *width > 0);
    width.ok_or_else(|| content(format!("it does not say how many figures its input `{}` has", input.name)))
}

/// A constant of a graph.
struct Constant {
    /// Its rows; 1 of a row or a single number.
    rows: usize,
    columns: usize,
    values: Vec<f64>,
}

/// The constants of a graph by name.
fn constants(graph: &Graph) -> Result<HashMap<&str, Constant>, WeightsError> {
    let mut all = HashMap::new();
    for tensor in &graph.initializer {
        all.insert(tensor.name.as_str(), constant(&tensor.name, tensor)?);
    }
    for node in graph.node.iter().filter(|node| node.op_type == "Constant") {
        let ([attribute], [name]) = (&node.attribute[..], &node.output[..]) else { continue };
        if let Some(tensor) = &attribute.t {
            all.insert(name.as_str(), constant(name, tensor)?);
        }
    }
    Ok(all)
}

fn constant(name: &str, tensor: &Tensor) -> Result<Constant, WeightsError> {
    if tensor.data_type != FLOAT {
        return Err(content(format!("the constant `{name}` is not of 32-bit floating point numbers")));
    }
    let values: Vec<f64> = if tensor.raw_data.is_empty() {
        tensor.float_data.iter().copied().map(f64::from).collect()
    } else {
        let numbers = tensor.raw_data.chunks_exact(4);
        numbers.map(|four| f64::from(f32::from_le_bytes([four[0], four[1], four[2], four[3]]))).collect()
    };
    let sizes: Option<Vec<usize>> =
        tensor.dims.iter().map(|size| usize::try_from(*size).ok().filter(|size| *size <= WIDEST)).collect();
    let (rows, columns) = match sizes.as_deref() {
        Some([]) => (1, 1),
        Some([columns]) => (1, *columns),
        Some([rows, columns]) => (*rows, *columns),
        _ => return Err(content(format!("the constant `{name}` is no matrix of at most {WIDEST} rows and columns"))),
    };
    if rows * columns != values.len() {
        return Err(content(format!("the constant `{name}` has {} numbers for its shape", values.len())));
    }
    Ok(Constant { rows, columns, values })
}

/// The weights of sums.
enum Factors {
    /// Each figure by itself, times its factor.
    Each(Vec<f64>),
    /// Input by input.
    All(Vec<f64>),
}

/// Weighted sums of the figures of a layer, put together from one operator after the other.
struct Sums {
    inputs: usize,
    outputs: usize,
    weights: Factors,
    biases: Vec<f64>,
}

impl Sums {
    /// Returns the identity of this width.
    fn same(width: usize) -> Result<Self, WeightsError> {
        if width > WIDEST {
            return Err(content(format!("a layer has {width} figures, more than {WIDEST}")));
        }
        let weights = Factors::Each(vec![1.0; width]);
        Ok(Self { inputs: width, outputs: width, weights, biases: vec![0.0; width] })
    }

    /// Adds its weights, input by input, and its biases to those of the layers before it. Errs where they would be too
    /// many.
    fn append_to(self, parameters: &mut Vec<f32>) -> Result<(), WeightsError> {
        if parameters.len() + (self.inputs + 1) * self.outputs > MOST_PARAMETERS {
            return Err(content(format!("its layers have more than {MOST_PARAMETERS} numbers")));
        }
        match self.weights {
            Factors::All(weights) => parameters.extend(weights.into_iter().map(|x| x as f32)),
            Factors::Each(factors) => {
                let of_each = factors.iter().enumerate();
                parameters.extend(of_each.flat_map(|(place, factor)| {
                    (0..factors.len()).map(move |other| if other == place { *factor as f32 } else { 0.0 })
                }));
            }
        }
        parameters.extend(self.biases.into_iter().map(|x| x as f32));
        Ok(())
    }

    /// Numbers that it keeps for each sum.
    fn depth(&self) -> usize {
        match &self.weights {
            Factors::Each(_) => 1,
            Factors::All(_) => self.inputs,
        }
    }

    /// Appends one operator, with this many multiplications left. Errs with the unreadable part.
    fn then(
        mut self,
        node: &Node,
        value: &str,
        constants: &HashMap<&str, Constant>,
        left: &mut usize,
    ) -> Result<Self, WeightsError> {
        let operator = node.op_type.as_str();
        let unknown = || content(format!("it has an operator `{operator}` where layers are read: {READ}"));
        let amiss = |what: &str| content(format!("its operator `{operator}` {what}"));
        let known = |place: usize| node.input.get(place).and_then(|name| constants.get(name.as_str()));
        let first = node.input.first().is_some_and(|name| name == value);
        let second = node.input.get(1).is_some_and(|name| name == value);
        let matrix = known(1).filter(|_| matches!(operator, "Gemm" | "MatMul")).map(|matrix| matrix.values.len());
        let products = self.depth() * matrix.unwrap_or(self.outputs);
        *left = left.checked_sub(products).ok_or_else(|| {
            content("its operators take too long to put together into layers; export it with one product a layer")
        })?;
        match operator {
            "Identity" if first => Ok(self),
            "Gemm" | "MatMul" if first => {
                let turned = turned(node).ok_or_else(|| amiss("has factors or turns its input"))?;
                let matrix = known(1).ok_or_else(|| amiss("multiplies by something that is not a constant"))?;
                self = self.times(matrix, turned).ok_or_else(|| amiss("does not fit the layer before it"))?;
                match known(2) {
                    None if node.input.len() > 2 => Err(amiss("adds something that is not a constant")),
                    None => Ok(self),
                    Some(row) => self.each(row, |x| (1.0, x)).ok_or_else(|| amiss("does not fit its biases")),
                }
            }
            "Add" | "Sub" | "Mul" | "Div" if first || (second && matches!(operator, "Add" | "Mul")) => {
                let row = known(usize::from(first)).ok_or_else(|| amiss("takes something that is not a constant"))?;
                let by = |x: f64| match operator {
                    "Add" => (1.0, x),
                    "Sub" => (1.0, -x),
                    "Mul" => (x, 0.0),
                    _ => (1.0 / x, 0.0),
                };
                self.each(row, by).ok_or_else(|| amiss("does not fit the layer before it"))
            }
            _ => Err(unknown()),
        }
    }

    /// The sums times a matrix.
    fn times(self, matrix: &Constant, turned: bool) -> Option<Self> {
        let (rows, columns) = if turned { (matrix.columns, matrix.rows) } else { (matrix.rows, matrix.columns) };
        if rows != self.outputs || columns == 0 {
            return None;
        }
        let at = |row: usize, column: usize| {
            matrix.values[if turned { column * rows + row } else { row * columns + column }]
        };
        let product = |left: &[f64], column: usize| -> f64 {
            left.iter().enumerate().filter(|(_, x)| **x != 0.0).map(|(row, x)| x * at(row, column)).sum()
        };
        let weights: Vec<f64> = match &self.weights {
            Factors::Each(factors) => {
                let each = factors.iter().enumerate();
                let scaled = each.flat_map(|(row, x)| (0..columns).map(move |column| x * at(row, column)));
                scaled.collect()
            }
            Factors::All(weights) => {
                let each = weights.chunks_exact(self.outputs);
                let places = each.flat_map(|row| (0..columns).map(move |column| (row, column)));
                places.map(|(row, column)| product(row, column)).collect()
            }
        };
        let biases = (0..columns).map(|column| product(&self.biases, column)).collect();
        Some(Self { inputs: self.inputs, outputs: columns, weights: Factors::All(weights), biases })
    }

    /// Each sum times a factor, and more by a number; both of a constant, the same for all where it is a single one.
    fn each(mut self, row: &Constant, by: impl Fn(f64) -> (f64, f64)) -> Option<Self> {
        if row.rows != 1 || (row.columns != 1 && row.columns != self.outputs) {
            return None;
        }
        for place in 0..self.outputs {
            let (factor, more) = by(row.values[place % row.columns]);
            match &mut self.weights {
                Factors::Each(factors) => factors[place] *= factor,
                Factors::All(weights) => {
                    weights.iter_mut().skip(place).step_by(self.outputs).for_each(|weight| *weight *= factor);
                }
            }
            self.biases[place] = self.biases[place] * factor + more;
        }
        Some(self)
    }
}

/// The operators that can be read.
const READ: &str = "Gemm, MatMul, Add, Sub, Mul, Div, Identity, Tanh and Relu";

/// Whether a product turns its matrix; none where it does anything else by the way.
fn turned(node: &Node) -> Option<bool> {
    let mut turned = false;
    for attribute in &node.attribute {
        match attribute.name.as_str() {
            "transB" if attribute.kind == WHOLE => turned = attribute.i != 0,
            "transA" if attribute.i == 0 => {}
            "alpha" | "beta" if attribute.f == 1.0 => {}
            _ => return None,
        }
    }
    Some(turned)
}

#[cfg(test)]
mod tests {
    use super::super::proto::Attribute;
    use super::*;
    use crate::Memory;
    use inkpot_core::Chance;

    fn named(prefix: &str, count: usize) -> Vec<String> {
        (0..count).map(|place| format!("{prefix}{place}")).collect()
    }

    fn drawn(activation: Activation) -> Weights {
        let dense = Dense::drawn(vec![3, 8, 5, 2], activation, &mut Chance::from_seed(4));
        Weights {
            observation: named("in", 3),
            actions: named("out", 2),
            gives: Gives::Chances,
            body: Body::Network(Network::Dense(dense)),
            earlier: Vec::new(),
        }
    }

    /// A graph as another library might write it.
    fn foreign(nodes: Vec<Node>, constants: Vec<Tensor>) -> Vec<u8> {
        let last = nodes.last().map(|node| node.output[0].clone()).unwrap_or_default();
        let graph = Graph {
            node: nodes,
            name: "main".into(),
            initializer: constants,
            input: vec![figures("x", &named("in", 2))],
            output: vec![figures(&last, &named("out", 1))],
        };
        let opset_import = vec![OperatorSet { domain: String::new(), version: 18 }];
        Model {
            ir_version: 9,
            producer_name: "another".into(),
            graph: Some(graph),
            opset_import,
            metadata_props: vec![],
        }
        .encode_to_vec()
    }

    #[test]
    fn a_model_reads_back_bit_for_bit() {
        for activation in Activation::ALL {
            let network = drawn(activation);
            let bytes = network.to_onnx(&[("game", "regatta".into())]).unwrap();
            assert_eq!(Weights::from_bytes(&bytes).unwrap(), network);
            for cut in 0..bytes.len() {
                let mut flipped = bytes.clone();
                flipped[cut] ^= 0x55;
                let _ = (Weights::from_bytes(&bytes[..cut]), Weights::from_bytes(&flipped));
            }
        }
    }

    #[test]
    fn a_network_of_another_library_is_put_together_from_its_operators() {
        let whole = |name: &str, i: i64| Attribute { name: name.into(), i, kind: WHOLE, ..Attribute::default() };
        let scale = Tensor { dims: vec![], data_type: FLOAT, float_data: vec![2.0], ..Tensor::default() };
        let held = Attribute { name: "value".into(), t: Some(scale), kind: 4, ..Attribute::default() };
        let mut product = node("Gemm", &["c", "w", "bias"], "d");
        product.attribute = vec![whole("transB", 1), whole("transA", 0)];
        let nodes = vec![
            Node { attribute: vec![held], ..node("Constant", &[], "two") },
            node("Sub", &["x", "mean"], "a"),
            node("Div", &["a", "two"], "b"),
            node("Identity", &["b"], "c"),
            product,
            node("Relu", &["d"], "e"),
            node("MatMul", &["e", "v"], "f"),
            node("Add", &["more", "f"], "g"),
        ];
        let constants = vec![
            tensor("mean", &[2], &[1.0, -1.0]),
            tensor("w", &[3, 2], &[1.0, 2.0, -3.0, 4.0, 0.5, 0.0]),
            tensor("bias", &[1, 3], &[0.0, 1.0, 2.0]),
            tensor("v", &[3, 1], &[1.0, 10.0, 100.0]),
            tensor("more", &[1], &[0.25]),
        ];
        let Body::Network(network) = Weights::from_bytes(&foreign(nodes, constants)).unwrap().body else { panic!() };
        // For 3 and 5 it reads 1 and 3: sums of 7, 10 and 2.5, none below 0.
        assert_eq!(network.forward(&[3.0, 5.0], &mut Memory::default()), [7.0 + 100.0 + 250.0 + 0.25]);
    }

    #[test]
    fn a_graph_of_another_shape_is_refused_with_what_it_has() {
        let weights = || vec![tensor("w", &[2, 1], &[1.0, 2.0]), tensor("u", &[1, 1], &[1.0])];
        let message =
            |nodes: Vec<Node>, constants| Weights::from_bytes(&foreign(nodes, constants)).unwrap_err().to_string();
        let gemm = || node("Gemm", &["x", "w"], "a");
        for (nodes, wrong) in [
            (vec![node("Conv", &["x", "w"], "a")], "operator `Conv`"),
            (vec![node("Gemm", &["x", "y"], "a")], "not a constant"),
            (vec![node("Gemm", &["x", "u"], "a")], "does not fit the layer before it"),
            (vec![node("Gemm", &["x", "w", "w"], "a")], "does not fit its biases"),
            (vec![gemm(), node("Tanh", &["a"], "b"), node("Relu", &["b"], "c")], "different activations"),
            (vec![gemm(), node("Tanh", &["x"], "b")], "operator `Tanh`"),
        ] {
            let error = message(nodes, weights());
            assert!(error.contains(wrong), "{error}");
        }
        let infinite = vec![tensor("w", &[2, 1], &[f32::INFINITY, 1.0])];
        assert!(message(vec![gemm()], infinite).contains("not finite"));
        let chain = |operator: &str, second: Option<&str>, length: usize| {
            let link = |place: usize| {
                let (from, to) = (format!("n{place}"), format!("n{}", place + 1));
                let inputs: Vec<&str> = std::iter::once(from.as_str()).chain(second).collect();
                node(operator, &inputs, &to)
            };
            let first = node("MatMul", &["x", "u"], "n0");
            std::iter::once(first).chain((0..length).map(link)).collect::<Vec<_>>()
        };
        let spread = |width: usize| tensor("u", &[2, width], &vec![0.01; 2 * width]);
        assert!(message(chain("Tanh", None, 6), vec![spread(2048)]).contains("more than 16777216 numbers"));
        let square = tensor("w", &[512, 512], &vec![0.01; 512 * 512]);
        let products = message(chain("MatMul", Some("w"), 2100), vec![spread(512), square]);
        assert!(products.contains("take too long to put together"), "{products}");
        let wide = vec![Tensor { dims: vec![1 << 40, 1], ..tensor("w", &[2, 1], &[1.0, 2.0]) }];
        assert!(message(vec![gemm()], wide).contains("no matrix of at most 2048"));
        assert!(drawn(Activation::Tanh).to_onnx(&[]).is_ok());
        let tape = Weights {
            body: Body::Tape(super::super::Tape { width: 2, values: vec![0.0; 4] }),
            ..drawn(Activation::Tanh)
        };
        assert!(tape.to_onnx(&[]).unwrap_err().to_string().ends_with("this is a tape"));
    }
}
