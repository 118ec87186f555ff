//! The finding of a search.

use serde::{Deserialize, Serialize};

use super::map::MapFound;
use super::report::SearchFound;

/// The finding of a search, beside the summary that all studies share.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct SearchFinding {
    /// The search, with its proofs.
    pub search: SearchFound,
    /// The niches of a map of elites, with the proof of each elite.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub map: Option<MapFound>,
}
