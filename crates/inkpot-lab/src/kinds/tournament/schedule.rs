//! Schedules of tournaments: the rounds, drawn from earlier results.

use std::collections::BTreeMap;

use inkpot_core::Chance;

use super::asked::{Format, Tournament};
use super::matching::matched;
use crate::combinations::{choose, combinations};
use crate::standing::Played;

/// The problem of an impossible tournament, and the help.
pub(crate) type Refusal = (String, String);

impl Tournament {
    /// Tables of all rounds, or about this many where they do not come out.
    pub(crate) fn pairings(&self, entrants: usize, seats: usize) -> usize {
        match self.format {
            Format::RoundRobin => choose(entrants, seats),
            Format::Swiss => entrants / seats * self.rounds as usize,
            Format::Knockout => entrants,
        }
    }

    /// Tables by round for a field of this many, `seats` at a table.
    pub(crate) fn tables(&self, entrants: usize, seats: usize) -> Result<Vec<usize>, Refusal> {
        match self.format {
            Format::RoundRobin if seats == 2 => Ok(circle(entrants).iter().map(Vec::len).collect()),
            Format::RoundRobin => Ok(vec![choose(entrants, seats)]),
            Format::Swiss => Ok(vec![entrants / seats; self.rounds as usize]),
            Format::Knockout => knockout_tables(entrants, seats).ok_or_else(|| {
                let some: Vec<String> = (1..=4).map(|k| (seats + k * (seats - 1)).to_string()).collect();
                (
                    format!("a knockout at tables of {seats} does not work out with {entrants} entrants"),
                    format!("use {seats}, {}, ... entrants", some.join(", ")),
                )
            }),
        }
    }

    /// The tables of a round, given all tables played before it in order.
    pub(crate) fn draw(
        &self,
        round: usize,
        (entrants, seats): (usize, usize),
        played: &[Played],
        chance: &mut Chance,
    ) -> Vec<Vec<usize>> {
        match self.format {
            Format::RoundRobin if seats == 2 => circle(entrants).swap_remove(round),
            Format::RoundRobin => combinations(entrants, seats).collect(),
            Format::Swiss => swiss(entrants, seats, played, chance),
            Format::Knockout => knockout(entrants, seats, played),
        }
    }
}

/// All pairs in rounds in which nobody plays twice: one stays, the others move round it (Kirkman 1847).
fn circle(entrants: usize) -> Vec<Vec<Vec<usize>>> {
    let places = entrants + entrants % 2;
    let at = |round: usize, place: usize| if place == 0 { 0 } else { 1 + (place - 1 + round) % (places - 1) };
    (0..places.saturating_sub(1))
        .map(|round| {
            let pairs = (0..places / 2).map(|table| [at(round, table), at(round, places - 1 - table)]);
            let mut pairs: Vec<Vec<usize>> = pairs
                .filter(|pair| pair.iter().all(|who| *who < entrants))
                .map(|mut pair| {
                    pair.sort_unstable();
                    pair.to_vec()
                })
                .collect();
            pairs.sort();
            pairs
        })
        .collect()
}

/// Draws a Swiss round: entrants of like score meet, without rematches where possible (exactly at tables of two). The
/// score is the mean of 1 for a table won, one half for a level one, 0 for a lost one, so that sitting out has no
/// effect. Within a score, by points, the upper half meets the lower: pairs of unlike strength connect the ratings over
/// longer distances. The lowest of those that sat out least often sits out.
fn swiss(entrants: usize, seats: usize, played: &[Played], chance: &mut Chance) -> Vec<Vec<usize>> {
    let mut met: BTreeMap<(usize, usize), u32> = BTreeMap::new();
    let mut rounds = vec![0.0; entrants];
    let (mut won, mut points) = (rounds.clone(), rounds.clone());
    for table in played {
        for (index, &who) in table.entrants.iter().enumerate() {
            won[who] += table.won(index);
            points[who] += table.points[index];
            rounds[who] += 1.0;
            for &other in table.entrants.iter().filter(|other| **other != who) {
                *met.entry((who, other)).or_default() += 1;
            }
        }
    }
    let mean = |sums: &[f64], who: usize| if rounds[who] > 0.0 { sums[who] / rounds[who] } else { 0.5 };
    let mut order: Vec<usize> = (0..entrants).collect();
    chance.shuffle(&mut order);
    let score = |who: usize| (mean(&won, who), mean(&points, who));
    order.sort_by(|a, b| score(*b).partial_cmp(&score(*a)).unwrap_or(std::cmp::Ordering::Equal));
    for _ in 0..entrants % seats {
        let most = order.iter().map(|who| rounds[*who]).fold(0.0, f64::max);
        let last = order.iter().rposition(|who| rounds[*who] == most).unwrap_or(order.len() - 1);
        order.remove(last);
    }
    let order: Vec<usize> =
        order.chunk_by(|a, b| mean(&won, *a) == mean(&won, *b)).flat_map(|group| folded(group, seats)).collect();
    let times = |a: usize, b: usize| met.get(&(a, b)).copied().unwrap_or(0);
    if seats == 2 { pairs(&order, times) } else { larger(order, seats, times) }
}

/// A group in the order in which neighbours shall meet: the first of the upper part, the first of the next, ...
fn folded(group: &[usize], seats: usize) -> Vec<usize> {
    let part = group.len().div_ceil(seats);
    (0..part).flat_map(|place| group.iter().skip(place).step_by(part).copied().collect::<Vec<_>>()).collect()
}

/// Neighbours in the order, each with the next it has not met; where that does not come out, pairs are changed until as
/// few as possible meet again.
fn pairs(order: &[usize], times: impl Fn(usize, usize) -> u32) -> Vec<Vec<usize>> {
    let near = |place: usize| {
        let mut others: Vec<usize> = (0..order.len()).filter(|other| *other != place).collect();
        others.sort_by_key(|other| other.abs_diff(place));
        others
    };
    let fresh = |a: usize, b: usize| times(order[a], order[b]) == 0;
    let allowed: Vec<Vec<usize>> =
        (0..order.len()).map(|place| near(place).into_iter().filter(|other| fresh(place, *other)).collect()).collect();
    let mut mates: Vec<Option<usize>> = vec![None; order.len()];
    for place in 0..order.len() {
        let free = |other: &usize| *other > place && mates[*other].is_none() && fresh(place, *other);
        if let Some(other) = (place + 1..order.len()).find(free).filter(|_| mates[place].is_none()) {
            (mates[place], mates[other]) = (Some(other), Some(place));
        }
    }
    let mates = matched(&allowed, mates);
    let mut tables: Vec<(usize, usize)> = mates
        .iter()
        .enumerate()
        .filter_map(|(first, mate)| mate.filter(|mate| *mate > first).map(|mate| (first, mate)))
        .collect();
    let left: Vec<usize> = (0..order.len()).filter(|place| mates[*place].is_none()).collect();
    tables.extend(left.chunks_exact(2).map(|pair| (pair[0], pair[1])));
    tables.sort_unstable();
    tables.into_iter().map(|(a, b)| vec![order[a], order[b]]).collect()
}

/// Tables filled from the top with those that met the others there least often, nearest first.
fn larger(mut order: Vec<usize>, seats: usize, times: impl Fn(usize, usize) -> u32) -> Vec<Vec<usize>> {
    let mut tables = Vec::new();
    while order.len() >= seats {
        let mut table = vec![order.remove(0)];
        while table.len() < seats {
            let again = |who: usize| table.iter().map(|other| times(who, *other)).sum::<u32>();
            let next = (0..order.len()).min_by_key(|place| (again(order[*place]), *place)).unwrap_or(0);
            table.push(order.remove(next));
        }
        tables.push(table);
    }
    tables
}

/// Tables by round: the first brings the field to a power of the seats, the best seeds sitting it out.
fn knockout_tables(entrants: usize, seats: usize) -> Option<Vec<usize>> {
    let mut goal = 1;
    while goal * seats < entrants {
        goal *= seats;
    }
    let out = entrants - goal;
    if !out.is_multiple_of(seats - 1) {
        return None;
    }
    let mut tables = vec![out / (seats - 1)];
    while goal > 1 {
        goal /= seats;
        tables.push(goal);
    }
    Some(tables)
}

/// Those still in, by seed, are dealt to the tables to and fro, so that the best meets the last.
fn knockout(entrants: usize, seats: usize, played: &[Played]) -> Vec<Vec<usize>> {
    let mut left: Vec<usize> = (0..entrants).collect();
    let sizes = knockout_tables(entrants, seats).unwrap_or_default();
    let mut before = played;
    for tables in &sizes {
        let playing = tables * seats;
        if before.is_empty() {
            let first = left.len() - playing;
            return deal(&left[first..], *tables);
        }
        let (round, rest) = before.split_at((*tables).min(before.len()));
        before = rest;
        for table in round {
            let winner = table.winner();
            left.retain(|who| *who == winner || !table.entrants.contains(who));
        }
    }
    Vec::new()
}

fn deal(seeds: &[usize], tables: usize) -> Vec<Vec<usize>> {
    let mut dealt = vec![Vec::new(); tables];
    for (index, &who) in seeds.iter().enumerate() {
        let (lap, place) = (index / tables, index % tables);
        dealt[if lap % 2 == 0 { place } else { tables - 1 - place }].push(who);
    }
    dealt
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::BTreeSet;

    fn chance() -> Chance {
        Chance::from_seed(3)
    }

    /// A table where the one of lower number takes everything.
    fn lower_wins(table: &[usize]) -> Played {
        let best = table.iter().min().copied().unwrap_or(0);
        let won: Vec<f64> = table.iter().map(|who| f64::from(u8::from(*who == best))).collect();
        Played { entrants: table.to_vec(), points: won.clone(), blocks_won: won.clone(), score: won }
    }

    fn play_all(tournament: Tournament, entrants: usize, seats: usize) -> Vec<Vec<Vec<usize>>> {
        let tables = tournament.tables(entrants, seats).unwrap();
        let mut played: Vec<Played> = Vec::new();
        let mut rounds = Vec::new();
        for (round, count) in tables.iter().enumerate() {
            let drawn = tournament.draw(round, (entrants, seats), &played, &mut chance());
            assert_eq!(drawn.len(), *count, "round {round} of {entrants}");
            played.extend(drawn.iter().map(|table| lower_wins(table)));
            rounds.push(drawn);
        }
        rounds
    }

    fn of(format: Format, rounds: u64) -> Tournament {
        Tournament { format, rounds, anchor: None }
    }

    #[test]
    fn a_round_robin_has_every_pair_once_and_nobody_twice_a_round() {
        for entrants in 2..12 {
            let rounds = play_all(of(Format::RoundRobin, 0), entrants, 2);
            let all: BTreeSet<Vec<usize>> = rounds.iter().flatten().cloned().collect();
            assert_eq!(all.len(), entrants * (entrants - 1) / 2);
            for round in &rounds {
                let seats: BTreeSet<usize> = round.iter().flatten().copied().collect();
                assert_eq!(seats.len(), round.len() * 2);
            }
        }
    }

    #[test]
    fn swiss_rounds_have_no_rematch_while_one_can_be_avoided() {
        // Five rounds of six exhaust all fifteen pairs; a sixth must repeat, but as few as three pairs.
        for (entrants, rounds) in [(6, 3), (8, 5), (9, 6), (16, 8), (40, 15)] {
            let drawn = play_all(of(Format::Swiss, rounds), entrants, 2);
            let all: Vec<BTreeSet<usize>> = drawn.iter().flatten().map(|pair| pair.iter().copied().collect()).collect();
            let different: BTreeSet<&BTreeSet<usize>> = all.iter().collect();
            assert_eq!(different.len(), all.len(), "{entrants} entrants, {rounds} rounds");
        }
    }

    #[test]
    fn swiss_lets_everybody_sit_out_in_turn() {
        let drawn = play_all(of(Format::Swiss, 7), 7, 2);
        let mut played = vec![0; 7];
        drawn.iter().flatten().flatten().for_each(|who| played[*who] += 1);
        assert_eq!(played, [6; 7]);
    }

    #[test]
    fn after_a_few_rounds_swiss_pairs_are_close_in_strength() {
        let drawn = play_all(of(Format::Swiss, 6), 32, 2);
        let apart = |round: &Vec<Vec<usize>>| round.iter().map(|p| p[0].abs_diff(p[1])).sum::<usize>() as f64 / 16.0;
        assert!(apart(&drawn[5]) < 0.75 * apart(&drawn[0]), "{} {}", apart(&drawn[5]), apart(&drawn[0]));
    }

    #[test]
    fn a_knockout_gives_the_best_seeds_the_byes_and_the_best_wins() {
        for entrants in 2..20 {
            let rounds = play_all(of(Format::Knockout, 0), entrants, 2);
            let matches: usize = rounds.iter().map(Vec::len).sum();
            assert_eq!(matches, entrants - 1);
            assert!(rounds.last().unwrap()[0].contains(&0));
        }
        let six = play_all(of(Format::Knockout, 0), 6, 2);
        assert_eq!(six[0], [[2, 5], [3, 4]]);
        assert_eq!(six[1], [[0, 3], [1, 2]]);
    }

    #[test]
    fn knockouts_of_three_at_a_table_need_an_odd_field() {
        let of_three = of(Format::Knockout, 0);
        assert_eq!(of_three.tables(9, 3), Ok(vec![3, 1]));
        assert_eq!(of_three.tables(5, 3), Ok(vec![1, 1]));
        assert!(of_three.tables(6, 3).unwrap_err().1.contains("3, 5, 7"));
        assert_eq!(play_all(of_three, 7, 3).concat().len(), 3);
    }

    #[test]
    fn swiss_at_tables_of_three_spreads_meetings() {
        let drawn = play_all(of(Format::Swiss, 4), 9, 3);
        let mut pairs: BTreeMap<(usize, usize), u32> = BTreeMap::new();
        for table in drawn.iter().flatten() {
            for (i, &a) in table.iter().enumerate() {
                table[i + 1..].iter().for_each(|&b| *pairs.entry((a.min(b), a.max(b))).or_default() += 1);
            }
        }
        // Four rounds have 36 meetings for 36 pairs; most are different.
        assert!(pairs.len() >= 28, "{}", pairs.len());
    }

    #[test]
    fn a_level_table_goes_to_the_better_seed_and_says_so() {
        let level =
            Played { entrants: vec![4, 1], points: vec![0.5; 2], blocks_won: vec![1.0; 2], score: vec![2.0; 2] };
        assert_eq!((level.winner(), level.by_seed()), (1, true));
        assert!(!lower_wins(&[4, 1]).by_seed());
    }
}
