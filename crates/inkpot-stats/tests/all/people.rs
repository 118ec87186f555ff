//! How often the intervals of hopeless and idle players hold the true shares, by simulation: a few studies in every test
//! run, many where it is asked for.
//!
//! `cargo test --release -p inkpot-stats people:: -- --ignored --nocapture`

use inkpot_core::Chance;
use inkpot_stats::{Draws, HOPELESS, IDLE, Interval, People};

const MATCHES: usize = 10;

/// How chances to win are spread over people.
#[derive(Clone, Copy, Debug)]
enum Spread {
    /// The first of these among this many even numbers: a beta law of whole parameters.
    Ranked(usize, usize),
    /// Skill is normal, and the chance its logistic: no beta law.
    Logistic(f64, f64),
    /// Everybody the same.
    Alike(f64),
}

impl Spread {
    fn draw(self, chance: &mut Chance) -> f64 {
        match self {
            Self::Ranked(rank, of) => {
                let mut even: Vec<f64> = (0..of).map(|_| chance.unit()).collect();
                even.sort_by(f64::total_cmp);
                even[rank - 1]
            }
            Self::Logistic(mean, sd) => 1.0 / (1.0 + (-(mean + sd * chance.normal())).exp()),
            Self::Alike(share) => share,
        }
    }
}

struct Source(Chance);

impl Draws for Source {
    fn below(&mut self, n: usize) -> usize {
        (self.0.unit() * n as f64) as usize
    }
}

#[test]
fn shares_of_people_are_held_in_a_few_studies() {
    // The standard error of a share over 60 studies is 3 to 5 points.
    shares_of_people(60, &[40], 3, 75.0);
}

#[test]
#[ignore = "a minute of simulation"]
fn shares_of_people_are_held() {
    shares_of_people(1000, &[40, 150, 600], 1, 85.0);
}

/// This many studies of this many people of every n-th spread; at least this many percent hold the truth.
fn shares_of_people(studies: u32, sizes: &[u64], step: usize, least: f64) {
    let spreads = [
        Spread::Ranked(2, 3),
        Spread::Ranked(6, 9),
        Spread::Ranked(3, 9),
        Spread::Ranked(1, 9),
        Spread::Logistic(0.0, 1.0),
        Spread::Logistic(-1.0, 0.7),
        Spread::Alike(0.5),
        Spread::Alike(0.2),
    ];
    for &people in sizes {
        for (place, spread) in spreads.into_iter().enumerate().step_by(step) {
            let mut chance = Chance::from_seed(100 * people + place as u64);
            let (mut hopeless, mut idle) = (0.0, 0.0);
            let many = 400_000;
            for _ in 0..many {
                let p = spread.draw(&mut chance);
                hopeless += f64::from(u8::from(p < HOPELESS)) / f64::from(many);
                idle += f64::from(u8::from(p > IDLE)) / f64::from(many);
            }
            let mut draws = Source(Chance::from_seed(7));
            // A share known to a tenth of a point is known.
            let holds =
                |interval: Interval, truth: f64| interval.low - 0.001 <= truth && truth <= interval.high + 0.001;
            let mut held = [0, 0];
            for _ in 0..studies {
                let mut all = People::default();
                for _ in 0..people {
                    let p = spread.draw(&mut chance);
                    let points: Vec<f64> = (0..MATCHES).map(|_| f64::from(u8::from(chance.happens(p)))).collect();
                    all.push(&points);
                }
                let figures = all.figures(0.95, &mut draws).expect("enough people");
                held[0] += u32::from(holds(figures.hopeless, hopeless));
                held[1] += u32::from(holds(figures.idle, idle));
            }
            let share = |held: u32| 100.0 * f64::from(held) / f64::from(studies);
            println!(
                "| {people} | {spread:?} | {:.1} % | {:.1} % | {:.1} % | {:.1} % |",
                100.0 * hopeless,
                share(held[0]),
                100.0 * idle,
                share(held[1])
            );
            assert!(share(held[0].min(held[1])) >= least, "{spread:?}");
        }
    }
}
