//! The historical markings: the same change made anywhere in a run gets the same mark.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

/// The number of a node. Inputs come first, then the one that always gives 1, then outputs, then hidden nodes.
pub(super) type NodeId = u32;
/// The mark of a link.
pub(super) type Mark = u32;

/// All changes that were made in a run.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(super) struct Innovations {
    /// The links, by where they lead from and to; the place is the mark.
    #[serde(with = "pairs")]
    links: BTreeMap<(NodeId, NodeId), Mark>,
    /// The nodes that were put into each link, by its mark.
    #[serde(with = "pairs")]
    splits: BTreeMap<Mark, Vec<NodeId>>,
    next_node: NodeId,
}

impl Innovations {
    pub(super) fn new(inputs: usize, outputs: usize) -> Self {
        Self { links: BTreeMap::new(), splits: BTreeMap::new(), next_node: (inputs + 1 + outputs) as NodeId }
    }

    /// The mark of a link.
    pub(super) fn link(&mut self, from: NodeId, to: NodeId) -> Mark {
        let next = self.links.len() as Mark;
        *self.links.entry((from, to)).or_insert(next)
    }

    /// The node that is put into a link; one that a genome has already is not put there twice.
    pub(super) fn split(&mut self, link: Mark, has: impl Fn(NodeId) -> bool) -> NodeId {
        let nodes = self.splits.entry(link).or_default();
        if let Some(&node) = nodes.iter().find(|&&node| !has(node)) {
            return node;
        }
        let node = self.next_node;
        self.next_node += 1;
        nodes.push(node);
        node
    }
}

/// Maps whose keys are no text, as lists of pairs.
mod pairs {
    use std::collections::BTreeMap;

    use serde::de::DeserializeOwned;
    use serde::{Deserialize, Deserializer, Serialize, Serializer};

    pub(super) fn serialize<K: Serialize, V: Serialize, S: Serializer>(
        map: &BTreeMap<K, V>,
        to: S,
    ) -> Result<S::Ok, S::Error> {
        to.collect_seq(map)
    }

    pub(super) fn deserialize<'de, K, V, D>(from: D) -> Result<BTreeMap<K, V>, D::Error>
    where
        K: DeserializeOwned + Ord,
        V: DeserializeOwned,
        D: Deserializer<'de>,
    {
        Ok(Vec::<(K, V)>::deserialize(from)?.into_iter().collect())
    }
}
