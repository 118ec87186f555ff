//! Ratings of a pool: a field that many studies share, rated from all that was played between its members, jointly.

use std::collections::{BTreeMap, BTreeSet};

use inkpot_core::{GameEntry, Rows};
use inkpot_ledger::{LedgerError, Manifest, Study};
use inkpot_stats::{FieldSize, Interval, Meeting, Ratings};

use crate::Plan;
use crate::kinds::tournament::meetings_of;
use crate::outcomes::{Outcomes, Pattern, Seated, seated};
use crate::stored_rows::visit_rows;

/// A table of a study with members of the pool only, and the results of its blocks.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PoolTable {
    /// Entrants at the table, by name.
    pub entrants: Vec<String>,
    /// Seed of the study: blocks of one seed and number share their world.
    pub seed: u64,
    /// Number of its first block.
    pub first_block: u64,
    outcomes: Outcomes,
}

impl PoolTable {
    /// Matches that count.
    pub fn matches(&self) -> u64 {
        self.patterns().map(|(_, pattern)| pattern.matches().len() as u64).sum()
    }

    /// Whether both are of the same people in the same worlds.
    pub fn overlaps(&self, other: &Self) -> bool {
        let who = |table: &Self| table.entrants.iter().cloned().collect::<BTreeSet<String>>();
        let span = |table: &Self| table.first_block..table.first_block + table.outcomes.len() as u64;
        let (a, b) = (span(self), span(other));
        self.seed == other.seed && a.start < b.end && b.start < a.end && who(self) == who(other)
    }

    /// Returns the courses of its blocks: matches separated by spaces, the seats of a match by dashes, each as entrant
    /// and placement.
    pub fn courses(&self) -> Vec<String> {
        let seat = |(who, place): &Seated| format!("{who}:{place}");
        let played = |seats: &[Seated]| seats.iter().map(seat).collect::<Vec<_>>().join("-");
        self.outcomes.patterns().map(|course| course.matches().map(played).collect::<Vec<_>>().join(" ")).collect()
    }

    /// The course of each block, from 1 up; 0 counts for nobody.
    pub fn blocks(&self) -> impl Iterator<Item = usize> {
        self.outcomes.numbers()
    }

    /// Reads a table from its written courses. None if they are malformed.
    pub fn read(
        entrants: Vec<String>,
        seed: u64,
        first_block: u64,
        courses: &[String],
        blocks: &[usize],
    ) -> Option<Self> {
        let seats = entrants.len();
        let seat = |text: &str| {
            let (who, place) = text.split_once(':')?;
            let who = who.parse().ok().filter(|who| usize::from(*who) < seats)?;
            Some((who, place.parse().ok().filter(|place| *place > 0)?))
        };
        let played = |text: &str| -> Option<Vec<Seated>> {
            text.split('-').map(seat).collect::<Option<Vec<_>>>().filter(|placed| placed.len() == seats)
        };
        let course = |text: &String| text.split(' ').map(played).collect::<Option<Vec<_>>>().map(|all| all.concat());
        let courses = courses.iter().map(course).collect::<Option<Vec<Vec<Seated>>>>()?;
        let mut outcomes = Outcomes::new(seats);
        for block in blocks {
            match block.checked_sub(1) {
                Some(index) => outcomes.push(Some(courses.get(index)?)),
                None => outcomes.push(None),
            }
        }
        Some(Self { entrants, seed, first_block, outcomes })
    }

    fn patterns(&self) -> impl Iterator<Item = (u64, Pattern<'_>)> {
        let block = |index| Some((self.first_block + index as u64, self.outcomes.get(index)?));
        (0..self.outcomes.len()).filter_map(block)
    }
}

/// The tables of a study at which only these sat.
pub fn pool_tables(
    study: &Study,
    manifest: &Manifest,
    plan: &Plan,
    game: &dyn GameEntry,
    members: &[String],
) -> Result<Vec<PoolTable>, LedgerError> {
    let names = |cell: usize| -> Vec<String> {
        plan.cells[cell].entrants.iter().map(|place| plan.entrants[*place].name.clone()).collect()
    };
    let mut seen: BTreeMap<usize, Outcomes> = BTreeMap::new();
    visit_rows(study, manifest, plan, &game.measure_names(), |rows: &Rows| {
        for block in rows.blocks() {
            let cell = block.cell();
            if names(cell).iter().all(|name| members.contains(name)) {
                let seated = (!block.has_void()).then(|| seated(block, &plan.cells[cell].entrants));
                seen.entry(cell).or_insert_with(|| Outcomes::new(plan.seats() as usize)).push(seated.as_deref());
            }
        }
        Ok(())
    })?;
    let table = |(cell, outcomes): (usize, Outcomes)| PoolTable {
        entrants: names(cell),
        seed: plan.ground.seed,
        first_block: plan.cells[cell].first_block,
        outcomes,
    };
    Ok(seen.into_iter().map(table).collect())
}

/// Rates a pool's members from all tables, in the order of `members`, relative to the mean or to an anchor, by the
/// estimator of tournaments: blocks of one seed and number are one cluster, whatever study they are of. None for
/// members without results.
pub fn rate_pool(
    members: &[String],
    anchor: Option<usize>,
    tables: &[PoolTable],
    confidence: f64,
) -> Vec<Option<Interval>> {
    let worlds: BTreeSet<(u64, u64)> =
        tables.iter().flat_map(|table| table.patterns().map(|(block, _)| (table.seed, block))).collect();
    let worlds: BTreeMap<(u64, u64), usize> = worlds.into_iter().zip(0..).collect();
    let seats = tables.iter().map(|table| table.entrants.len()).max().unwrap_or(2);
    let size = FieldSize { entrants: members.len(), seats, blocks: worlds.len() };
    let place = |name: &String| members.iter().position(|other| other == name);
    let seated: Vec<Option<Vec<usize>>> =
        tables.iter().map(|table| table.entrants.iter().map(place).collect()).collect();
    let meetings = || {
        tables.iter().zip(&seated).filter_map(|(table, seated)| Some((table, seated.as_ref()?))).flat_map(
            |(table, seated)| {
                table.patterns().flat_map(|(block, pattern)| {
                    meetings_of(pattern, seated, worlds[&(table.seed, block)]).collect::<Vec<Meeting>>()
                })
            },
        )
    };
    let fitted = Ratings::fit(size, meetings);
    (0..members.len()).map(|member| fitted.as_ref()?.rating(member, anchor, confidence)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn table(seed: u64, wins: usize, losses: usize) -> PoolTable {
        let names = vec!["a".to_string(), "b".into()];
        let courses = ["0:1-1:2 1:2-0:1".to_string(), "0:2-1:1 1:1-0:2".into()];
        let blocks = [vec![1; wins], vec![2; losses]].concat();
        PoolTable::read(names, seed, 0, &courses, &blocks).expect("it is written so")
    }

    #[test]
    fn what_is_written_reads_back() {
        let first = table(3, 4, 2);
        let again =
            PoolTable::read(first.entrants.clone(), 3, 0, &first.courses(), &first.blocks().collect::<Vec<_>>());
        assert_eq!(again, Some(first.clone()));
        assert_eq!(first.matches(), 12);
        let names = || vec!["a".to_string(), "b".into()];
        for courses in ["0:1", "0:1-2:2", "0:1-1:0", "0-1"] {
            assert_eq!(PoolTable::read(names(), 3, 0, &[courses.into()], &[1]), None, "{courses}");
        }
        assert_eq!(PoolTable::read(names(), 3, 0, &[], &[1]), None);
    }

    #[test]
    fn two_studies_say_what_one_of_both_would() {
        let members = vec!["a".to_string(), "b".into()];
        let apart = rate_pool(&members, Some(1), &[table(1, 60, 40), table(2, 70, 30)], 0.95);
        let together = rate_pool(&members, Some(1), &[table(1, 130, 70)], 0.95);
        let (apart, together) = (apart[0].expect("rated"), together[0].expect("rated"));
        assert!((apart.value - together.value).abs() < 1e-6, "{apart:?} and {together:?}");
        assert!((apart.half_width() / together.half_width() - 1.0).abs() < 0.01, "{apart:?} and {together:?}");
    }

    #[test]
    fn only_the_same_people_in_the_same_worlds_overlap() {
        let second = table(1, 3, 3);
        assert!(second.overlaps(&table(1, 1, 0)));
        assert!(!second.overlaps(&table(2, 3, 3)));
        let later = PoolTable { first_block: 6, ..second.clone() };
        assert!(!second.overlaps(&later));
        let others = PoolTable { entrants: vec!["a".into(), "c".into()], ..second.clone() };
        assert!(!second.overlaps(&others));
    }
}
