//! Steps along a gradient.

use serde::{Deserialize, Serialize};

/// Steps whose length adapts to each parameter (Adam; Kingma & Ba 2015).
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Adam {
    #[serde(with = "crate::bits")]
    mean: Vec<f32>,
    #[serde(with = "crate::bits")]
    square: Vec<f32>,
    /// The decay rates to the power of the steps so far.
    decayed: (f64, f64),
}

const MEAN_DECAY: f64 = 0.9;
const SQUARE_DECAY: f64 = 0.999;
const LEAST: f32 = 1e-5;

impl Adam {
    /// Before the first step of this number of parameters.
    #[must_use]
    pub fn new(parameters: usize) -> Self {
        Self { mean: vec![0.0; parameters], square: vec![0.0; parameters], decayed: (1.0, 1.0) }
    }

    /// A step down the gradient, of about `rate` a parameter.
    ///
    /// # Panics
    /// When there are not as many parameters as it was made for.
    pub fn step(&mut self, parameters: &mut [f32], gradient: &[f32], rate: f64) {
        assert_eq!(parameters.len(), self.mean.len(), "a step is one of all parameters");
        self.decayed.0 *= MEAN_DECAY;
        self.decayed.1 *= SQUARE_DECAY;
        let length = (rate / (1.0 - self.decayed.0)) as f32;
        let grown = (1.0 / (1.0 - self.decayed.1)) as f32;
        let (keep, keep_square) = (MEAN_DECAY as f32, SQUARE_DECAY as f32);
        let moments = self.mean.iter_mut().zip(&mut self.square);
        for ((parameter, slope), (mean, square)) in parameters.iter_mut().zip(gradient).zip(moments) {
            *mean = keep * *mean + (1.0 - keep) * slope;
            *square = keep_square * *square + (1.0 - keep_square) * slope * slope;
            *parameter -= length * *mean / ((*square * grown).sqrt() + LEAST);
        }
    }
}

/// Shortens gradients that belong together to this length, if they are longer (Pascanu, Mikolov & Bengio 2013), and
/// gives the length that they had.
pub fn shorten(gradients: &mut [&mut [f32]], most: f64) -> f64 {
    let square: f64 =
        gradients.iter().flat_map(|gradient| gradient.iter()).map(|x| f64::from(*x) * f64::from(*x)).sum();
    let length = square.sqrt();
    if length > most {
        let by = (most / length) as f32;
        gradients.iter_mut().flat_map(|gradient| gradient.iter_mut()).for_each(|x| *x *= by);
    }
    length
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_first_step_has_the_length_of_the_rate_whatever_the_gradient() {
        let mut adam = Adam::new(3);
        let mut parameters = [0.0; 3];
        adam.step(&mut parameters, &[100.0, -3.0, 0.0], 0.01);
        assert!((parameters[0] + 0.01).abs() < 1e-5 && (parameters[1] - 0.01).abs() < 1e-5 && parameters[2] == 0.0);
    }

    #[test]
    fn it_finds_the_foot_of_a_narrow_valley() {
        let (mut adam, mut at) = (Adam::new(2), [3.0_f32, -2.0]);
        for _ in 0..3000 {
            let gradient = [2.0 * (at[0] - 1.0), 200.0 * (at[1] - 0.5)];
            adam.step(&mut at, &gradient, 0.01);
        }
        assert!((at[0] - 1.0).abs() < 1e-2 && (at[1] - 0.5).abs() < 1e-2, "{at:?}");
    }

    #[test]
    fn long_gradients_are_shortened_together_and_short_ones_stay() {
        let (mut a, mut b) = (vec![3.0_f32], vec![4.0_f32]);
        assert_eq!(shorten(&mut [&mut a, &mut b], 10.0), 5.0);
        assert_eq!((a[0], b[0]), (3.0, 4.0));
        assert_eq!(shorten(&mut [&mut a, &mut b], 1.0), 5.0);
        assert!((a[0] - 0.6).abs() < 1e-6 && (b[0] - 0.8).abs() < 1e-6);
    }
}
