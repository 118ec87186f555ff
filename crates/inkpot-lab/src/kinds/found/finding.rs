//! What a search found, as it is told.

use serde::{Deserialize, Serialize};

use super::map::MapFound;
use super::report::SearchFound;

/// The finding of a search, beside the summary that all studies share.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct SearchFinding {
    /// The search, with what was proved.
    pub search: SearchFound,
    /// The niches of a map of elites, with what was proved of the elite of each.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub map: Option<MapFound>,
}
