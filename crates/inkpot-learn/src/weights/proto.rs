//! The messages of an ONNX model, as far as a network of layers needs them (the public schema `onnx.proto`; the numbers
//! are its field numbers). Fields that are not named here are passed over when a file is read.

use prost::Message;

#[derive(Clone, PartialEq, Message)]
pub(super) struct Model {
    #[prost(int64, tag = "1")]
    pub(super) ir_version: i64,
    #[prost(string, tag = "2")]
    pub(super) producer_name: String,
    #[prost(message, optional, tag = "7")]
    pub(super) graph: Option<Graph>,
    #[prost(message, repeated, tag = "8")]
    pub(super) opset_import: Vec<OperatorSet>,
    #[prost(message, repeated, tag = "14")]
    pub(super) metadata_props: Vec<Entry>,
}

#[derive(Clone, PartialEq, Message)]
pub(super) struct OperatorSet {
    #[prost(string, tag = "1")]
    pub(super) domain: String,
    #[prost(int64, tag = "2")]
    pub(super) version: i64,
}

#[derive(Clone, PartialEq, Message)]
pub(super) struct Entry {
    #[prost(string, tag = "1")]
    pub(super) key: String,
    #[prost(string, tag = "2")]
    pub(super) value: String,
}

#[derive(Clone, PartialEq, Message)]
pub(super) struct Graph {
    #[prost(message, repeated, tag = "1")]
    pub(super) node: Vec<Node>,
    #[prost(string, tag = "2")]
    pub(super) name: String,
    #[prost(message, repeated, tag = "5")]
    pub(super) initializer: Vec<Tensor>,
    #[prost(message, repeated, tag = "11")]
    pub(super) input: Vec<ValueInfo>,
    #[prost(message, repeated, tag = "12")]
    pub(super) output: Vec<ValueInfo>,
}

#[derive(Clone, PartialEq, Message)]
pub(super) struct Node {
    #[prost(string, repeated, tag = "1")]
    pub(super) input: Vec<String>,
    #[prost(string, repeated, tag = "2")]
    pub(super) output: Vec<String>,
    #[prost(string, tag = "3")]
    pub(super) name: String,
    #[prost(string, tag = "4")]
    pub(super) op_type: String,
    #[prost(message, repeated, tag = "5")]
    pub(super) attribute: Vec<Attribute>,
}

#[derive(Clone, PartialEq, Message)]
pub(super) struct Attribute {
    #[prost(string, tag = "1")]
    pub(super) name: String,
    #[prost(float, tag = "2")]
    pub(super) f: f32,
    #[prost(int64, tag = "3")]
    pub(super) i: i64,
    #[prost(message, optional, tag = "5")]
    pub(super) t: Option<Tensor>,
    #[prost(int32, tag = "20")]
    pub(super) kind: i32,
}

/// The kind of an attribute that holds a whole number.
pub(super) const WHOLE: i32 = 2;

#[derive(Clone, PartialEq, Message)]
pub(super) struct Tensor {
    #[prost(int64, repeated, tag = "1")]
    pub(super) dims: Vec<i64>,
    #[prost(int32, tag = "2")]
    pub(super) data_type: i32,
    #[prost(float, repeated, tag = "4")]
    pub(super) float_data: Vec<f32>,
    #[prost(string, tag = "8")]
    pub(super) name: String,
    #[prost(bytes = "vec", tag = "9")]
    pub(super) raw_data: Vec<u8>,
}

/// The kind of a tensor of 32-bit floating point numbers.
pub(super) const FLOAT: i32 = 1;

#[derive(Clone, PartialEq, Message)]
pub(super) struct ValueInfo {
    #[prost(string, tag = "1")]
    pub(super) name: String,
    #[prost(message, optional, tag = "2")]
    pub(super) of: Option<Type>,
    #[prost(string, tag = "3")]
    pub(super) doc_string: String,
}

#[derive(Clone, PartialEq, Message)]
pub(super) struct Type {
    #[prost(message, optional, tag = "1")]
    pub(super) tensor: Option<TensorType>,
}

#[derive(Clone, PartialEq, Message)]
pub(super) struct TensorType {
    #[prost(int32, tag = "1")]
    pub(super) elem_type: i32,
    #[prost(message, optional, tag = "2")]
    pub(super) shape: Option<Shape>,
}

#[derive(Clone, PartialEq, Message)]
pub(super) struct Shape {
    #[prost(message, repeated, tag = "1")]
    pub(super) dim: Vec<Dim>,
}

/// One size of a shape: a number, or the name of one that is open.
#[derive(Clone, PartialEq, Message)]
pub(super) struct Dim {
    #[prost(int64, tag = "1")]
    pub(super) value: i64,
    #[prost(string, tag = "2")]
    pub(super) name: String,
}

/// The names of a model's input and output, and of the metadata with their figures.
pub(super) const OBSERVATION: &str = "observation";
pub(super) const ACTIONS: &str = "actions";

/// Builds an operator with its inputs and output.
pub(super) fn node(operator: &str, inputs: &[&str], output: &str) -> Node {
    Node {
        input: inputs.iter().map(ToString::to_string).collect(),
        output: vec![output.into()],
        name: format!("{output}.of"),
        op_type: operator.into(),
        attribute: Vec::new(),
    }
}

/// A constant of this shape.
pub(super) fn tensor(name: &str, sizes: &[usize], values: &[f32]) -> Tensor {
    Tensor {
        dims: sizes.iter().map(|size| *size as i64).collect(),
        data_type: FLOAT,
        float_data: Vec::new(),
        name: name.into(),
        raw_data: values.iter().flat_map(|x| x.to_le_bytes()).collect(),
    }
}
