//! Running ratings of a growing pool: Glicko-2.

use serde::{Deserialize, Serialize};

use crate::Interval;
use crate::interval::normal_quantile;

/// Rating points a unit of Glickman's internal scale.
const SCALE: f64 = 173.7178;
/// How fast volatility may change; the paper suggests 0.3 to 1.2.
const TAU: f64 = 0.5;
const TOLERANCE: f64 = 1e-9;

/// A running rating: 95 % of the time the true one lies within two deviations.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Running {
    /// Rating in points above that of a newcomer to the pool.
    pub rating: f64,
    /// Its standard deviation in points.
    pub deviation: f64,
    /// How much the rating is expected to wander from study to study.
    pub volatility: f64,
}

impl Default for Running {
    /// A newcomer: the paper's 1500, which is 0 here, deviation 350, volatility 0.06.
    fn default() -> Self {
        Self { rating: 0.0, deviation: 350.0, volatility: 0.06 }
    }
}

/// What was played against one opponent in a period.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Games {
    /// The opponent as it was before the period.
    pub opponent: Running,
    /// Points share against it.
    pub share: f64,
    /// How many independent games it is worth.
    pub games: f64,
}

impl Games {
    /// A points share with its interval over so many matches. It is worth as many independent games as would give that
    /// interval, and no more than were played.
    pub fn of(opponent: Running, seen: &Interval, matches: u64, confidence: f64) -> Self {
        let error = seen.half_width() / normal_quantile(f64::midpoint(1.0, confidence));
        // A share of 0 or 1 is taken half a game off its end.
        let played = matches as f64;
        let share = (seen.value * played + 0.5) / (played + 1.0);
        let games = if error > 0.0 { share * (1.0 - share) / (error * error) } else { played };
        Self { opponent, share: seen.value, games: games.min(played) }
    }
}

impl Running {
    /// The rating after a period (Glickman 2013, "Example of the Glicko-2 system", steps 2 to 8). Of a period without
    /// games only the deviation grows.
    #[must_use]
    pub fn after(&self, period: &[Games]) -> Self {
        let (mu, phi, sigma) = (self.rating / SCALE, self.deviation / SCALE, self.volatility);
        let (mut precision, mut gain) = (0.0, 0.0);
        for games in period {
            let weight = weight(games.opponent.deviation / SCALE);
            let expected = 1.0 / (1.0 + (-weight * (mu - games.opponent.rating / SCALE)).exp());
            precision += games.games * weight * weight * expected * (1.0 - expected);
            gain += games.games * weight * (games.share - expected);
        }
        if precision <= 0.0 {
            return Self { deviation: (phi * phi + sigma * sigma).sqrt().min(350.0 / SCALE) * SCALE, ..*self };
        }
        let variance = 1.0 / precision;
        let volatility = volatility(sigma, phi, variance, variance * gain);
        let before = phi * phi + volatility * volatility;
        let deviation = 1.0 / (1.0 / before + precision).sqrt();
        Self { rating: (mu + deviation * deviation * gain) * SCALE, deviation: deviation * SCALE, volatility }
    }
}

/// How much a game against an opponent of this deviation says.
fn weight(phi: f64) -> f64 {
    1.0 / (1.0 + 3.0 * phi * phi / std::f64::consts::PI.powi(2)).sqrt()
}

/// Step 5: the new volatility, by the paper's variant of regula falsi.
fn volatility(sigma: f64, phi: f64, variance: f64, delta: f64) -> f64 {
    let a = (sigma * sigma).ln();
    let f = |x: f64| {
        let spread = phi * phi + variance + x.exp();
        x.exp() * (delta * delta - spread) / (2.0 * spread * spread) - (x - a) / (TAU * TAU)
    };
    let mut low = a;
    let mut high = if delta * delta > phi * phi + variance {
        (delta * delta - phi * phi - variance).ln()
    } else {
        let steps = (1..1000).map(|k| a - f64::from(k) * TAU);
        steps.into_iter().find(|x| f(*x) >= 0.0).unwrap_or(a - 1000.0 * TAU)
    };
    let (mut at_low, mut at_high) = (f(low), f(high));
    for _ in 0..200 {
        if (high - low).abs() <= TOLERANCE {
            break;
        }
        let next = low + (low - high) * at_low / (at_high - at_low);
        let at_next = f(next);
        if at_next * at_high <= 0.0 {
            (low, at_low) = (high, at_high);
        } else {
            at_low /= 2.0;
        }
        (high, at_high) = (next, at_next);
    }
    (low / 2.0).exp()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn running(rating: f64, deviation: f64) -> Running {
        Running { rating: rating - 1500.0, deviation, volatility: 0.06 }
    }

    #[test]
    fn the_papers_worked_example_comes_out() {
        let games = |rating, deviation, share| Games { opponent: running(rating, deviation), share, games: 1.0 };
        let after = running(1500.0, 200.0).after(&[
            games(1400.0, 30.0, 1.0),
            games(1550.0, 100.0, 0.0),
            games(1700.0, 300.0, 0.0),
        ]);
        // Printed: mu' = -0.2069, phi' = 0.8722, RD' = 151.52, sigma' = 0.05999 (cut off, from 0.059996), and r' =
        // 1464.06, which is the rounded mu' times 173.7178.
        let mu = format!("{:.4}", after.rating / SCALE);
        assert_eq!((mu.as_str(), format!("{:.4}", after.deviation / SCALE)), ("-0.2069", "0.8722".into()));
        assert_eq!(format!("{:.2}", after.deviation), "151.52");
        assert_eq!((after.volatility * 1e5).floor(), 5999.0);
        assert_eq!(format!("{:.2}", -0.2069 * SCALE + 1500.0), "1464.06");
        assert!((after.rating + 1500.0 - 1464.06).abs() < 0.01);
    }

    #[test]
    fn matches_of_one_world_are_worth_fewer_games() {
        let independent = Interval { value: 0.5, low: 0.402, high: 0.598 };
        let games = |seen: &Interval| Games::of(Running::default(), seen, 100, 0.95).games;
        assert!((games(&independent) - 100.0).abs() < 1.0, "{}", games(&independent));
        let doubled = Interval { value: 0.5, low: 0.361, high: 0.639 };
        assert!((games(&doubled) - 50.0).abs() < 1.0, "{}", games(&doubled));
        assert!(games(&Interval { value: 1.0, low: 0.97, high: 1.0 }) <= 100.0);
    }

    #[test]
    fn without_games_only_the_deviation_grows() {
        let before = running(1600.0, 50.0);
        let after = before.after(&[]);
        assert_eq!((after.rating, after.volatility), (before.rating, before.volatility));
        // By hand: sqrt(50^2 + (0.06 * 173.7178)^2).
        assert!((after.deviation - (2500.0f64 + (0.06f64 * 173.7178).powi(2)).sqrt()).abs() < 1e-9);
        assert!(running(1500.0, 350.0).after(&[]).deviation <= 350.0);
    }

    #[test]
    fn many_games_of_one_kind_are_one_entry_with_a_count() {
        let one = Games { opponent: running(1480.0, 60.0), share: 0.7, games: 1.0 };
        let singly = running(1500.0, 120.0).after(&[one; 10]);
        let together = running(1500.0, 120.0).after(&[Games { games: 10.0, ..one }]);
        assert!((singly.rating - together.rating).abs() < 1e-9);
        assert!((singly.deviation - together.deviation).abs() < 1e-9);
    }
}
