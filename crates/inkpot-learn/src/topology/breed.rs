//! Breeding: two genomes make a child.

use std::cmp::Ordering;

use inkpot_core::Chance;

use super::genome::{GraphGenome, Hidden, LinkGene};

/// Share of the children that have one parent only.
const ALONE: f64 = 0.25;
/// Share of the pairs whose second parent is of any species.
const ABROAD: f64 = 0.001;
/// Probability that a gene stays off which is off in either parent.
const STAYS_OFF: f64 = 0.75;

/// The second parent of a child, if it has one: of the same species' parents, seldom of any species' best.
pub(super) fn mate(parents: &[usize], pools: &[Vec<usize>], chance: &mut Chance) -> Option<usize> {
    if chance.happens(ALONE) {
        return None;
    }
    if chance.happens(ABROAD) {
        return pools[chance.below(pools.len())].first().copied();
    }
    Some(parents[chance.below(parents.len())])
}

/// A child of one genome, or of two: genes of the same mark come from either; those that only one has come from the
/// better, and from both where they are worth the same. `second` comes with how its worth compares with the first's.
pub(super) fn child(first: &GraphGenome, second: Option<(&GraphGenome, Ordering)>, chance: &mut Chance) -> GraphGenome {
    let Some((second, order)) = second else { return first.clone() };
    let (from_first, from_second) = (order.is_le(), order.is_ge());
    let mut links: Vec<LinkGene> = Vec::new();
    let (mut a, mut b) = (first.links.iter().peekable(), second.links.iter().peekable());
    loop {
        let next = match (a.peek(), b.peek()) {
            (None, None) => break,
            (Some(mine), Some(other)) => mine.mark.cmp(&other.mark),
            (Some(_), None) => Ordering::Less,
            (None, Some(_)) => Ordering::Greater,
        };
        match next {
            Ordering::Equal => {
                let (Some(link), Some(other)) = (a.next(), b.next()) else { break };
                let mut gene = if chance.happens(0.5) { *link } else { *other };
                let off = !link.enabled || !other.enabled;
                gene.enabled = !(off && chance.happens(STAYS_OFF));
                links.push(gene);
            }
            Ordering::Less => links.extend(a.next().filter(|_| from_first)),
            Ordering::Greater => links.extend(b.next().filter(|_| from_second)),
        }
    }
    GraphGenome { hidden: needed(&links, first, second), links }
}

/// The hidden nodes that these links join, from the parents that have them.
fn needed(links: &[LinkGene], first: &GraphGenome, second: &GraphGenome) -> Vec<Hidden> {
    let joined = |hidden: &Hidden| links.iter().any(|link| link.from == hidden.id || link.to == hidden.id);
    let mut all: Vec<Hidden> = first.hidden.iter().chain(&second.hidden).filter(|node| joined(node)).copied().collect();
    all.sort_by_key(|node| node.id);
    all.dedup_by_key(|node| node.id);
    all
}

#[cfg(test)]
mod tests {
    use super::*;

    fn gene(mark: u32, weight: f64) -> LinkGene {
        LinkGene { mark, from: 0, to: 2, weight, enabled: true }
    }

    #[test]
    fn genes_of_one_parent_alone_come_from_the_better() {
        let first = GraphGenome { hidden: Vec::new(), links: vec![gene(0, 1.0), gene(1, 1.0)] };
        let second = GraphGenome { hidden: Vec::new(), links: vec![gene(0, 2.0), gene(2, 2.0), gene(3, 2.0)] };
        let marks = |order: Ordering| {
            let child = child(&first, Some((&second, order)), &mut Chance::from_seed(1));
            child.links.iter().map(|link| link.mark).collect::<Vec<_>>()
        };
        assert_eq!(marks(Ordering::Less), [0, 1]);
        assert_eq!(marks(Ordering::Greater), [0, 2, 3]);
        assert_eq!(marks(Ordering::Equal), [0, 1, 2, 3]);
    }
}
