//! Layers of nodes, each wholly joined to the next.

use inkpot_core::Chance;
use serde::{Deserialize, Serialize};

use super::{Activation, Memory, wide};

/// A network of layers. The outputs are plain sums.
///
/// Its parameters lie in one row, layer by layer: first the weights, input by input (`inputs x outputs`), then a bias
/// an output. So the sums of a layer are added up side by side, and a gradient has the same shape.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Dense {
    /// Nodes of each layer, from the inputs to the outputs.
    sizes: Vec<usize>,
    /// The activation of hidden nodes.
    activation: Activation,
    #[serde(with = "crate::bits")]
    parameters: Vec<f32>,
}

impl Dense {
    /// The number of parameters of a network with these layers, inputs and outputs included.
    pub fn count(sizes: &[usize]) -> usize {
        sizes.windows(2).map(|pair| (pair[0] + 1) * pair[1]).sum()
    }

    /// The network with these parameters; none where there are not as many as its layers take.
    pub fn new(sizes: Vec<usize>, activation: Activation, parameters: Vec<f32>) -> Option<Self> {
        let fits = sizes.len() >= 2 && parameters.len() == Self::count(&sizes);
        fits.then_some(Self { sizes, activation, parameters })
    }

    /// By how much each parameter is scaled, so that normal numbers make a network that neither dies nor saturates: the
    /// root of the inputs of its layer (Glorot & Bengio 2010 in their simplest form); biases by a tenth.
    pub fn scales(sizes: &[usize]) -> Vec<f64> {
        let layer = |pair: &[usize]| {
            let weight = 1.0 / (pair[0] as f64).sqrt();
            let weights = std::iter::repeat_n(weight, pair[0] * pair[1]);
            weights.chain(std::iter::repeat_n(0.1, pair[1])).collect::<Vec<_>>()
        };
        sizes.windows(2).flat_map(layer).collect()
    }

    /// A network with these layers and random parameters, on the scale of [`Dense::scales`].
    pub fn drawn(sizes: Vec<usize>, activation: Activation, chance: &mut Chance) -> Self {
        let parameters = Self::scales(&sizes).into_iter().map(|scale| (scale * chance.normal()) as f32).collect();
        Self { sizes, activation, parameters }
    }

    /// Nodes of each layer, from the inputs to the outputs.
    pub fn sizes(&self) -> &[usize] {
        &self.sizes
    }

    /// The activation of the hidden nodes.
    pub fn activation(&self) -> Activation {
        self.activation
    }

    /// All parameters.
    pub fn parameters(&self) -> &[f32] {
        &self.parameters
    }

    /// All parameters, to be changed.
    pub fn parameters_mut(&mut self) -> &mut [f32] {
        &mut self.parameters
    }

    /// The weights of each layer, input by input, and its biases.
    pub fn layers(&self) -> impl Iterator<Item = (&[f32], &[f32])> {
        let mut rest = self.parameters.as_slice();
        self.sizes.windows(2).map(move |pair| {
            let (weights, after) = rest.split_at(pair[0] * pair[1]);
            let (biases, after) = after.split_at(pair[1]);
            rest = after;
            (weights, biases)
        })
    }

    pub(crate) fn inputs(&self) -> usize {
        self.sizes[0]
    }

    pub(crate) fn outputs(&self) -> usize {
        self.sizes[self.sizes.len() - 1]
    }

    /// Computes the outputs for these inputs.
    ///
    /// # Panics
    /// When there are not as many inputs as it reads.
    #[inline]
    pub fn forward<'m>(&self, inputs: &[f32], memory: &'m mut Memory) -> &'m [f32] {
        assert_eq!(inputs.len(), self.sizes[0], "a network reads as many numbers as it has inputs");
        memory.now.clear();
        memory.now.extend_from_slice(inputs);
        let last = self.sizes.len() - 2;
        for (layer, (weights, biases)) in self.layers().enumerate() {
            memory.next.clear();
            memory.next.extend_from_slice(biases);
            let (inputs, sums) = (memory.now.as_slice(), memory.next.as_mut_slice());
            wide::dispatch(
                #[inline(always)]
                |lanes| match lanes {
                    16.. => added::<64>(inputs, weights, sums),
                    8.. => added::<32>(inputs, weights, sums),
                    _ => added::<16>(inputs, weights, sums),
                },
            );
            if layer < last {
                self.activation.over(&mut memory.next);
            }
            std::mem::swap(&mut memory.now, &mut memory.next);
        }
        &memory.now
    }
}

/// Adds to every sum its inputs times their weights, in the order of the inputs; `N` sums side by side in registers.
#[inline(always)]
fn added<const N: usize>(inputs: &[f32], weights: &[f32], sums: &mut [f32]) {
    let width = sums.len();
    let mut from = 0;
    while from + N <= width {
        let mut lanes = [0.0_f32; N];
        lanes.copy_from_slice(&sums[from..from + N]);
        for (input, row) in inputs.iter().zip(weights.chunks_exact(width)) {
            for (sum, weight) in lanes.iter_mut().zip(&row[from..from + N]) {
                *sum += input * weight;
            }
        }
        sums[from..from + N].copy_from_slice(&lanes);
        from += N;
    }
    if from < width {
        for (input, row) in inputs.iter().zip(weights.chunks_exact(width)) {
            for (sum, weight) in sums[from..].iter_mut().zip(&row[from..]) {
                *sum += input * weight;
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Layer by layer as it is written in a textbook, in double precision.
    fn textbook(network: &Dense, inputs: &[f32]) -> Vec<f64> {
        let mut now: Vec<f64> = inputs.iter().map(|x| f64::from(*x)).collect();
        let last = network.sizes.len() - 2;
        for (layer, (weights, biases)) in network.layers().enumerate() {
            let width = biases.len();
            let sum = |node: usize| {
                let of = |(place, x): (usize, &f64)| x * f64::from(weights[place * width + node]);
                f64::from(biases[node]) + now.iter().enumerate().map(of).sum::<f64>()
            };
            now = (0..width).map(sum).map(|x| if layer < last { x.tanh() } else { x }).collect();
        }
        now
    }

    #[test]
    fn it_computes_what_the_textbook_does() {
        let mut chance = Chance::from_seed(1);
        for sizes in [vec![3, 2], vec![15, 32, 32, 1], vec![5, 7, 20, 3], vec![1, 16, 17]] {
            let scales = Dense::scales(&sizes);
            let drawn: Vec<f32> = scales.iter().map(|scale| (scale * chance.normal()) as f32).collect();
            let network = Dense::new(sizes.clone(), Activation::Tanh, drawn).unwrap();
            let mut memory = Memory::default();
            for _ in 0..20 {
                let inputs: Vec<f32> = (0..sizes[0]).map(|_| chance.between(-1.0, 1.0) as f32).collect();
                let expected = textbook(&network, &inputs);
                let outputs = network.forward(&inputs, &mut memory);
                assert!(
                    outputs.iter().zip(&expected).all(|(a, b)| (f64::from(*a) - b).abs() < 2e-4),
                    "{outputs:?} {expected:?}"
                );
            }
        }
    }

    #[test]
    fn parameters_have_to_be_as_many_as_the_layers_take() {
        assert_eq!(Dense::count(&[2, 3, 1]), 2 * 3 + 3 + 3 + 1);
        assert!(Dense::new(vec![2, 3, 1], Activation::Relu, vec![0.0; 12]).is_none());
        assert_eq!(Dense::scales(&[4, 2]).len(), Dense::count(&[4, 2]));
    }
}
