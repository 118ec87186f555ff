//! Many samples through a network at once, and the gradient of its outputs.

use super::product::{Left, add_product};
use super::{Activation, Dense};

/// Buffers of passes through one network, forward and backward.
#[derive(Clone, Debug, Default)]
pub struct Pass {
    /// The outputs of each layer, the inputs first: samples x nodes.
    given: Vec<Vec<f32>>,
    /// The gradients by a layer's outputs, and by those of the layer before.
    slope: Vec<f32>,
    before: Vec<f32>,
    /// The weights of a layer, output by output.
    turned: Vec<f32>,
}

impl Pass {
    /// Returns the network's outputs for these samples (samples x inputs): samples x outputs, bit for bit those of each
    /// sample alone.
    ///
    /// # Panics
    /// When the inputs are not whole samples.
    pub fn forward(&mut self, network: &Dense, inputs: &[f32]) -> &[f32] {
        let sizes = network.sizes();
        assert!(inputs.len().is_multiple_of(sizes[0]), "a sample has as many numbers as the network has inputs");
        let samples = inputs.len() / sizes[0];
        self.given.resize(sizes.len(), Vec::new());
        self.given[0].clear();
        self.given[0].extend_from_slice(inputs);
        for (layer, (weights, biases)) in network.layers().enumerate() {
            let (before, after) = self.given.split_at_mut(layer + 1);
            let (from, to) = (&before[layer], &mut after[0]);
            to.clear();
            (0..samples).for_each(|_| to.extend_from_slice(biases));
            add_product(to, biases.len(), Left { values: from, row: sizes[layer], along: 1 }, weights);
            if layer + 2 < sizes.len() {
                network.activation().over(to);
            }
        }
        &self.given[sizes.len() - 1]
    }

    /// Adds to `gradient`, which lies as the parameters do, that of a sum over the samples of the last forward pass, given
    /// its gradient by the outputs (samples x outputs). Back propagation (Rumelhart, Hinton & Williams 1986).
    ///
    /// # Panics
    /// When the lengths do not agree with the last forward pass.
    pub fn backward(&mut self, network: &Dense, by_outputs: &[f32], gradient: &mut [f32]) {
        let sizes = network.sizes();
        let layers: Vec<(&[f32], &[f32])> = network.layers().collect();
        self.slope.clear();
        self.slope.extend_from_slice(by_outputs);
        let mut rest = gradient;
        for layer in (0..layers.len()).rev() {
            let (inputs, outputs) = (sizes[layer], sizes[layer + 1]);
            let (before, layer_weights) = rest.split_at_mut(rest.len() - (inputs + 1) * outputs);
            rest = before;
            let (weights, biases) = layer_weights.split_at_mut(inputs * outputs);
            let from = &self.given[layer];
            add_product(weights, outputs, Left { values: from, row: 1, along: inputs }, &self.slope);
            for sample in self.slope.chunks_exact(outputs) {
                biases.iter_mut().zip(sample).for_each(|(bias, slope)| *bias += slope);
            }
            if layer == 0 {
                break;
            }
            self.turned.clear();
            let weights = layers[layer].0;
            for output in 0..outputs {
                self.turned.extend(weights.iter().skip(output).step_by(outputs));
            }
            self.before.clear();
            self.before.resize(from.len(), 0.0);
            add_product(&mut self.before, inputs, Left { values: &self.slope, row: outputs, along: 1 }, &self.turned);
            network.activation().steepen(from, &mut self.before);
            std::mem::swap(&mut self.slope, &mut self.before);
        }
    }
}

impl Activation {
    /// Multiplies each slope by that of the activation where it gave this.
    fn steepen(self, outputs: &[f32], slopes: &mut [f32]) {
        let each = slopes.iter_mut().zip(outputs);
        match self {
            Self::Tanh => each.for_each(|(slope, y)| *slope *= 1.0 - y * y),
            Self::Relu => each.for_each(|(slope, y)| *slope = if *y > 0.0 { *slope } else { 0.0 }),
        }
    }
}

#[cfg(test)]
mod tests {
    use inkpot_core::Chance;

    use super::*;
    use crate::Memory;

    fn drawn(count: usize, chance: &mut Chance) -> Vec<f32> {
        (0..count).map(|_| chance.normal() as f32).collect()
    }

    fn network(sizes: &[usize], activation: Activation, chance: &mut Chance) -> Dense {
        Dense::drawn(sizes.to_vec(), activation, chance)
    }

    #[test]
    fn samples_together_come_to_the_same_bits_as_each_alone() {
        let mut chance = Chance::from_seed(5);
        let dense = network(&[9, 20, 17, 3], Activation::Tanh, &mut chance);
        let inputs = drawn(9 * 11, &mut chance);
        let (mut pass, mut memory) = (Pass::default(), Memory::default());
        let together = pass.forward(&dense, &inputs).to_vec();
        for (sample, outputs) in inputs.chunks(9).zip(together.chunks(3)) {
            assert_eq!(dense.forward(sample, &mut memory), outputs);
        }
    }

    /// The gradient of a weighted sum of the outputs against differences of it, by every parameter.
    #[test]
    fn the_gradient_agrees_with_finite_differences() {
        for (activation, sizes) in
            [(Activation::Tanh, vec![4, 7, 6, 2]), (Activation::Relu, vec![3, 18, 1]), (Activation::Tanh, vec![5, 3])]
        {
            let mut chance = Chance::from_seed(8);
            let dense = network(&sizes, activation, &mut chance);
            let samples = 6;
            let inputs = drawn(samples * sizes[0], &mut chance);
            let weights = drawn(samples * sizes[sizes.len() - 1], &mut chance);
            let mut pass = Pass::default();
            let mut sum = |parameters: Vec<f32>| -> f64 {
                let moved = Dense::new(sizes.clone(), activation, parameters).unwrap();
                let outputs = pass.forward(&moved, &inputs).iter().zip(&weights);
                outputs.map(|(output, weight)| f64::from(*output) * f64::from(*weight)).sum()
            };
            let step = 2e-3;
            let differences: Vec<f64> = (0..dense.parameters().len())
                .map(|place| {
                    let mut moved = |by: f32| {
                        let mut parameters = dense.parameters().to_vec();
                        parameters[place] += by;
                        sum(parameters)
                    };
                    (moved(step) - moved(-step)) / (2.0 * f64::from(step))
                })
                .collect();
            let mut gradient = vec![0.0; dense.parameters().len()];
            pass.forward(&dense, &inputs);
            pass.backward(&dense, &weights, &mut gradient);
            let size = differences.iter().map(|x| x * x).sum::<f64>().sqrt();
            let apart = gradient.iter().zip(&differences).map(|(a, b)| (f64::from(*a) - b).powi(2)).sum::<f64>().sqrt();
            assert!(apart < 2e-3 * size, "{activation:?}: {apart} of {size}");
        }
    }
}
