//! Ratings against a second fitter and against simulated fields of known strengths.
//!
//! `cargo test --release -p inkpot-stats ratings:: -- --ignored --nocapture` prints the table of
//! `docs/statistics.md` and fails when a bound stated there is missed.

use std::collections::BTreeMap;
use std::thread;

use inkpot_core::Chance;
use inkpot_stats::{FieldSize, Meeting, PRIOR_MATCHES, Ratings};

/// A made-up field: strengths in natural units, what the first seat is worth, how common ties are, and how strongly
/// the two matches of a block, and pairs that share a block, depend on each other.
struct Made {
    strengths: Vec<f64>,
    seat: f64,
    ties: f64,
    shared: f64,
    /// Luck of the first seat by block, the same in both matches and in every pairing of the block.
    worlds: Vec<f64>,
}

impl Made {
    /// Halves of points of `a`, who sits first, against `b` from a uniform number.
    fn halves(&self, a: usize, b: usize, u: f64) -> u8 {
        let apart = f64::midpoint(self.strengths[a] - self.strengths[b], self.seat);
        let (before, after) = (apart.exp(), (-apart).exp());
        let all = before + after + self.ties;
        if u < before / all { 2 } else { u8::from(u < (before + self.ties) / all) }
    }

    /// A pairing over blocks from `first_block` on: each block once for either order of the seats.
    fn play(&self, (a, b): (usize, usize), blocks: std::ops::Range<usize>, chance: &mut Chance) -> Vec<Meeting> {
        let mut played = Vec::new();
        for block in blocks {
            for (first, second) in [(a, b), (b, a)] {
                let u = if chance.happens(self.shared) { self.worlds[block] } else { chance.unit() };
                played.push(Meeting {
                    block,
                    first: (first, 0),
                    second: (second, 1),
                    halves: self.halves(first, second, u),
                });
            }
        }
        played
    }

    fn round_robin(&self, blocks: usize, chance: &mut Chance) -> (FieldSize, Vec<Meeting>) {
        let n = self.strengths.len();
        let pairs = (0..n).flat_map(|a| (a + 1..n).map(move |b| (a, b)));
        let played: Vec<Meeting> = pairs.flat_map(|pair| self.play(pair, 0..blocks, chance)).collect();
        (FieldSize { entrants: n, seats: 2, blocks }, played)
    }

    /// Swiss rounds, each over blocks of its own: those of one score (pairings won) ordered by points, the upper half
    /// against the lower, never the same pair twice while that can be avoided.
    fn swiss(&self, rounds: usize, blocks: usize, chance: &mut Chance) -> (FieldSize, Vec<Meeting>) {
        let n = self.strengths.len();
        let (mut played, mut points, mut won) = (Vec::new(), vec![0.0; n], vec![0.0; n]);
        let mut met = vec![vec![false; n]; n];
        for round in 0..rounds {
            let mut order: Vec<usize> = (0..n).collect();
            chance.shuffle(&mut order);
            order.sort_by(|a, b| (won[*b], points[*b]).partial_cmp(&(won[*a], points[*a])).unwrap());
            let fold = |group: &[usize]| {
                let half = group.len().div_ceil(2);
                (0..half)
                    .flat_map(|place| group.iter().skip(place).step_by(half).copied().collect::<Vec<_>>())
                    .collect()
            };
            order = order.chunk_by(|a, b| won[*a] == won[*b]).flat_map(|group| -> Vec<usize> { fold(group) }).collect();
            while order.len() > 1 {
                let a = order.remove(0);
                let at = order.iter().position(|&b| !met[a][b]).unwrap_or(0);
                let b = order.remove(at);
                (met[a][b], met[b][a]) = (true, true);
                let mut total = 0.0;
                let pairing = self.play((a, b), round * blocks..(round + 1) * blocks, chance);
                for meeting in &pairing {
                    let halves = f64::from(if meeting.first.0 == a { meeting.halves } else { 2 - meeting.halves });
                    total += halves;
                    points[a] += halves;
                    points[b] += 2.0 - halves;
                }
                let share = total / (2.0 * pairing.len() as f64);
                let table = if share > 0.5 { 1.0 } else { f64::from(u8::from(share == 0.5)) / 2.0 };
                won[a] += table;
                won[b] += 1.0 - table;
                played.extend(pairing);
            }
        }
        (FieldSize { entrants: n, seats: 2, blocks: rounds * blocks }, played)
    }
}

/// Strengths drawn from a normal distribution of this standard deviation, mean 0.
fn normal_field(n: usize, sd: f64, chance: &mut Chance) -> Vec<f64> {
    let drawn: Vec<f64> = (0..n).map(|_| sd * chance.normal()).collect();
    let mean = drawn.iter().sum::<f64>() / n as f64;
    drawn.iter().map(|x| x - mean).collect()
}

/// The same model fitted another way: minorise and maximise (Hunter 2004), on worths instead of strengths. The
/// logarithm of a sum is bounded by its tangent, the root in the tie term by the arithmetic mean; each worth then has a
/// closed form. Slow and sure, and not a line of code in common with Newton's steps.
struct Minoriser {
    /// First before, beside and after second, by entrants.
    counts: BTreeMap<(usize, usize), [f64; 3]>,
    /// Weight of the prior's draws between those who met.
    pairs: BTreeMap<(usize, usize), f64>,
    /// Of entrants; of the first seat, as a factor whose second seat has the inverse; of ties.
    strengths: Vec<f64>,
    seat: f64,
    tie: f64,
}

impl Minoriser {
    fn new(n: usize, played: &[Meeting]) -> Self {
        let mut counts: BTreeMap<(usize, usize), [f64; 3]> = BTreeMap::new();
        for meeting in played {
            counts.entry((meeting.first.0, meeting.second.0)).or_default()[usize::from(2 - meeting.halves)] += 1.0;
        }
        let mut pairs: BTreeMap<(usize, usize), f64> =
            counts.keys().map(|&(a, b)| ((a.min(b), a.max(b)), 0.0)).collect();
        let mut opponents = vec![0.0; n];
        for &(a, b) in pairs.keys() {
            opponents[a] += 1.0;
            opponents[b] += 1.0;
        }
        for (&(a, b), weight) in &mut pairs {
            *weight = PRIOR_MATCHES / opponents[a] + PRIOR_MATCHES / opponents[b];
        }
        Self { counts, pairs, strengths: vec![1.0; n], seat: 1.0, tie: 0.5 }
    }

    /// The next worth of an entrant.
    fn next(&self, me: usize) -> f64 {
        let Self { strengths: strength, seat, tie, .. } = self;
        let (mut won, mut rate) = (0.0, 0.0);
        for (&(a, b), count) in self.counts.iter().filter(|((a, b), _)| *a == me || *b == me) {
            let total: f64 = count.iter().sum();
            let (first, second) = (strength[a] * seat, strength[b] / seat);
            let all = first + second + tie * (first * second).sqrt();
            let (wins, factor, other) = if a == me { (count[0], *seat, second) } else { (count[2], 1.0 / seat, first) };
            won += wins + count[1] / 2.0;
            rate += total / all * (factor + tie / 2.0 * factor * (other / (strength[me] * factor)).sqrt());
        }
        for (&(a, b), weight) in self.pairs.iter().filter(|((a, b), _)| *a == me || *b == me) {
            won += weight / 2.0;
            rate += weight / (strength[a] + strength[b]);
        }
        won / rate
    }

    /// The next factors of seat and ties, given the next worths.
    fn factors(&self, next: &[f64]) -> (f64, f64) {
        let (mut ties, mut tie_rate) = (0.0, 0.0);
        // Both seats have halved a match with the other.
        let halved = 2.0 * PRIOR_MATCHES / (self.seat + 1.0 / self.seat);
        let (mut firsts, mut up, mut down) = (0.0, halved, halved);
        for (&(a, b), count) in &self.counts {
            let total: f64 = count.iter().sum();
            let (first, second) = (next[a] * self.seat, next[b] / self.seat);
            let all = first + second + self.tie * (first * second).sqrt();
            ties += count[1];
            tie_rate += total / all * (first * second).sqrt();
            firsts += count[0] - count[2];
            up += total / all * first / self.seat;
            down += total / all * second * self.seat;
        }
        // The seat's factor f: firsts / f - up + down / f^2 = 0.
        ((firsts + (firsts * firsts + 4.0 * up * down).sqrt()) / (2.0 * up), ties / tie_rate)
    }
}

/// Strengths, what the first seat is worth, and the logarithm of the tie factor.
fn minorise(n: usize, played: &[Meeting]) -> (Vec<f64>, f64, f64) {
    let mut minoriser = Minoriser::new(n, played);
    for _ in 0..200_000 {
        let mut next: Vec<f64> = (0..n).map(|me| minoriser.next(me)).collect();
        let scale = (next.iter().map(|x| x.ln()).sum::<f64>() / n as f64).exp();
        for x in &mut next {
            *x /= scale;
        }
        let (seat, tie) = minoriser.factors(&next);
        let moved = next.iter().zip(&minoriser.strengths).map(|(a, b)| (a / b).ln().abs()).fold(0.0, f64::max);
        let moved = moved.max((seat / minoriser.seat).ln().abs()).max((tie / minoriser.tie).ln().abs());
        (minoriser.strengths, minoriser.seat, minoriser.tie) = (next, seat, tie);
        if moved < 1e-14 {
            break;
        }
    }
    (minoriser.strengths.iter().map(|x| x.ln()).collect(), 2.0 * minoriser.seat.ln(), minoriser.tie.ln())
}

#[test]
fn two_fitters_agree() {
    let mut chance = Chance::from_seed(5);
    for (n, sd, seat, ties, blocks) in [(4, 0.5, 0.3, 0.4, 20), (8, 1.0, 0.0, 1.0, 10), (6, 2.0, -0.5, 0.2, 5)] {
        let worlds = (0..blocks).map(|_| chance.unit()).collect();
        let made = Made { strengths: normal_field(n, sd, &mut chance), seat, ties, shared: 0.2, worlds };
        let (size, played) = made.round_robin(blocks, &mut chance);
        let newton = Ratings::fit(size, || played.iter().copied()).unwrap();
        let (strengths, seat, _) = minorise(n, &played);
        for (entrant, other) in strengths.iter().enumerate() {
            let value = newton.strength(entrant);
            assert!((value - other).abs() < 1e-8, "entrant {entrant} of {n}: {value} and {other}");
        }
        let advantage =
            (newton.seat(0, 0.95).unwrap().value - newton.seat(1, 0.95).unwrap().value) / inkpot_stats::POINTS;
        assert!((advantage - seat).abs() < 1e-8, "seat: {advantage} and {seat}");
    }
}

#[test]
fn two_entrants_without_ties_have_a_closed_form() {
    // 30 of 40 won, and one match halved by each: the odds are 31 to 11.
    let meetings = (0..40).map(|k| Meeting {
        block: k / 2,
        first: (k % 2, 0),
        second: (1 - k % 2, 1),
        halves: if (k % 4 == 3) ^ (k % 2 == 1) { 0 } else { 2 },
    });
    let ratings = Ratings::fit(FieldSize { entrants: 2, seats: 2, blocks: 20 }, || meetings.clone()).unwrap();
    let apart = ratings.strength(0) - ratings.strength(1);
    let seat = (ratings.seat(0, 0.95).unwrap().value - ratings.seat(1, 0.95).unwrap().value) / inkpot_stats::POINTS;
    assert!(seat.abs() > 0.1, "the seats differ by construction: {seat}");
    // Points seen equal points expected, the halved matches among them.
    let share = ratings.expected(0, 1) * 40.0 + 2.0 / (1.0 + (-apart).exp());
    assert!((share - 31.0).abs() < 1e-9, "{share}");
}

#[test]
fn an_unbeaten_entrant_stays_finite_and_its_interval_is_wide() {
    let meetings = (0..40).map(|k| Meeting {
        block: k / 2,
        first: (k % 2, 0),
        second: (1 - k % 2, 1),
        halves: if k % 2 == 0 { 2 } else { 0 },
    });
    let ratings = Ratings::fit(FieldSize { entrants: 2, seats: 2, blocks: 20 }, || meetings.clone()).unwrap();
    let apart = ratings.difference(0, 1, 0.95).unwrap();
    assert!(apart.value > 400.0 && apart.value < 1000.0, "{apart:?}");
    assert!(apart.half_width() > 200.0, "{apart:?}");
    assert!(ratings.stronger(0, 1).unwrap() > 0.95);
}

#[test]
fn a_seat_that_always_wins_is_worth_a_finite_number_of_points() {
    let meetings = (0..400).map(|k| Meeting { block: k / 2, first: (k % 2, 0), second: (1 - k % 2, 1), halves: 2 });
    let ratings = Ratings::fit(FieldSize { entrants: 2, seats: 2, blocks: 200 }, || meetings.clone()).unwrap();
    // 400 won, and one match halved by each seat: the odds are 401 to 1.
    let [first, second] = [0, 1].map(|seat| ratings.seat(seat, 0.95).unwrap());
    let apart = (first.value - second.value) / inkpot_stats::POINTS;
    assert!((apart - 401f64.ln()).abs() < 0.01, "{apart}");
    assert!(first.half_width() < 300.0, "{first:?}");
    assert!((ratings.difference(0, 1, 0.95).unwrap().value).abs() < 1e-6, "the entrants are even");
}

#[test]
fn groups_that_never_met_are_told_and_their_distance_is_wide() {
    let pairs = [(0, 1), (2, 3)];
    let meetings = (0..80).map(|k| {
        let (a, b) = pairs[k % 2];
        let (first, second) = if k % 4 < 2 { (a, b) } else { (b, a) };
        Meeting { block: k / 4, first: (first, 0), second: (second, 1), halves: if k % 3 == 0 { 2 } else { 0 } }
    });
    let ratings = Ratings::fit(FieldSize { entrants: 4, seats: 2, blocks: 20 }, || meetings.clone()).unwrap();
    assert_eq!(ratings.groups(), 2);
    assert!(ratings.difference(0, 2, 0.95).unwrap().half_width() > 600.0);
    assert!(ratings.difference(0, 1, 0.95).unwrap().half_width() < 300.0);
}

#[test]
fn orders_of_three_are_rated_by_their_pairs() {
    // Plackett and Luce: the first place is drawn by worth, then the second among those left.
    let strengths = [0.8, 0.0, -0.8];
    let mut chance = Chance::from_seed(9);
    let mut played = Vec::new();
    for block in 0..3000 {
        let mut left: Vec<usize> = vec![0, 1, 2];
        let mut order = Vec::new();
        while !left.is_empty() {
            let strength: Vec<f64> = left.iter().map(|&who| f64::exp(strengths[who])).collect();
            let mut u = chance.unit() * strength.iter().sum::<f64>();
            let at = strength.iter().position(|w| {
                u -= w;
                u < 0.0
            });
            order.push(left.remove(at.unwrap_or(left.len() - 1)));
        }
        for (i, j) in [(0, 1), (0, 2), (1, 2)] {
            let seat = |who: usize| (who + block) % 3;
            played.push(Meeting {
                block,
                first: (order[i], seat(order[i])),
                second: (order[j], seat(order[j])),
                halves: 2,
            });
        }
    }
    let size = FieldSize { entrants: 3, seats: 3, blocks: 3000 };
    let ratings = Ratings::fit(size, || played.iter().copied()).unwrap();
    for (entrant, truth) in strengths.iter().enumerate() {
        let interval = ratings.rating(entrant, None, 0.999).unwrap();
        assert!(
            interval.holds(truth * inkpot_stats::POINTS) && interval.half_width() < 20.0,
            "{entrant}: {interval:?}"
        );
    }
    for seat in 0..3 {
        assert!(ratings.seat(seat, 0.999).unwrap().holds(0.0));
    }
}

/// Shares of entrants, and of neighbours in strength, whose 95 % interval holds the truth, over simulated fields.
fn coverage(
    fields: usize,
    seed: u64,
    play: impl Fn(&mut Chance) -> (Made, FieldSize, Vec<Meeting>) + Sync,
) -> [f64; 3] {
    let simulate_field = |field: usize| {
        let mut chance = Chance::from_seed(seed + field as u64);
        let (made, size, played) = play(&mut chance);
        let Some(ratings) = Ratings::fit(size, || played.iter().copied()) else { return [0.0; 3] };
        let n = made.strengths.len();
        let truth = |i: usize| made.strengths[i] * inkpot_stats::POINTS;
        let held =
            (0..n).filter(|&i| ratings.rating(i, None, 0.95).is_some_and(|interval| interval.holds(truth(i)))).count();
        let apart = (1..n)
            .filter(|&i| {
                ratings.difference(i, i - 1, 0.95).is_some_and(|interval| interval.holds(truth(i) - truth(i - 1)))
            })
            .count();
        let seat = ratings.seat(0, 0.95).is_some_and(|s| s.holds(made.seat / 2.0 * inkpot_stats::POINTS));
        [held as f64 / n as f64, apart as f64 / (n - 1) as f64, f64::from(u8::from(seat))]
    };
    let half = fields / 2;
    let sums = thread::scope(|scope| {
        let parts = [0..half, half..fields].map(|part| {
            let simulate_field = &simulate_field;
            scope.spawn(move || part.map(simulate_field).fold([0.0; 3], |a, b| [a[0] + b[0], a[1] + b[1], a[2] + b[2]]))
        });
        parts.map(|part| part.join().unwrap_or([f64::NAN; 3]))
    });
    [0, 1, 2].map(|i| (sums[0][i] + sums[1][i]) / fields as f64)
}

#[test]
fn rating_intervals_cover_in_a_few_fields() {
    // The standard error of a coverage over 60 fields of eight is about a point.
    rating_intervals(60, 4, 91.0..=99.5);
}

#[test]
#[ignore = "minutes of simulation"]
fn rating_intervals_cover() {
    rating_intervals(5000, 1, 94.0..=97.0);
}

/// Coverage over this many fields of every n-th kind.
fn rating_intervals(fields: usize, step: usize, bounds: std::ops::RangeInclusive<f64>) {
    // (what, entrants, sd of strengths, seat, ties, shared chance, rounds (0: round robin), blocks)
    let cells = [
        ("round robin", 4, 0.5, 0.2, 0.3, 0.0, 0, 50),
        ("round robin", 8, 1.0, 0.2, 0.0, 0.0, 0, 20),
        ("round robin", 8, 1.0, 0.4, 0.5, 0.3, 0, 20),
        ("round robin", 8, 1.0, 0.4, 0.5, 0.3, 0, 50),
        ("round robin", 16, 1.5, 0.0, 0.2, 0.2, 0, 10),
        ("round robin", 5, 2.0, 0.0, 0.0, 0.0, 0, 100),
        ("Swiss", 16, 1.0, 0.2, 0.3, 0.2, 6, 10),
        ("Swiss", 32, 1.0, 0.0, 0.3, 0.0, 6, 5),
        ("Swiss", 32, 1.5, 0.2, 0.3, 0.2, 8, 20),
        ("round robin", 24, 0.8, 0.3, 0.1, 0.5, 0, 15),
        ("Swiss", 60, 0.7, 0.2, 0.1, 0.1, 6, 10),
    ];
    let mut missed = false;
    for (number, &(what, n, sd, seat, ties, shared, rounds, blocks)) in cells.iter().enumerate().step_by(step) {
        let covered = coverage(fields, 1_000_000 * number as u64 + 700_000, |chance| {
            let worlds = (0..blocks * rounds.max(1)).map(|_| chance.unit()).collect();
            let made = Made { strengths: normal_field(n, sd, chance), seat, ties, shared, worlds };
            let (size, played) =
                if rounds == 0 { made.round_robin(blocks, chance) } else { made.swiss(rounds, blocks, chance) };
            (made, size, played)
        });
        let [at_home, apart, seats] = covered.map(|share| share * 100.0);
        println!(
            "| {what} | {n} | {sd} | {ties} | {shared} | {rounds} | {blocks} | {at_home:.1} % | {apart:.1} % | {seats:.1} % |"
        );
        for share in [at_home, apart] {
            missed |= !bounds.contains(&share);
        }
    }
    assert!(!missed, "a coverage is outside {bounds:?} %");
}

#[test]
fn an_entrant_that_wins_everything_is_rated_however_much_was_played() {
    for blocks in [2, 20, 50, 200, 1000, 20_000] {
        let meetings = (0..2 * blocks).map(|k| Meeting {
            block: k / 2,
            first: (k % 2, 0),
            second: (1 - k % 2, 1),
            halves: if k % 2 == 0 { 2 } else { 0 },
        });
        let ratings = Ratings::fit(FieldSize { entrants: 2, seats: 2, blocks }, || meetings.clone());
        let apart = ratings.and_then(|ratings| ratings.difference(0, 1, 0.95));
        assert!(
            apart.is_some_and(|apart| apart.value > 150.0 && apart.half_width().is_finite()),
            "{blocks}: {apart:?}"
        );
    }
}
