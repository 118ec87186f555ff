//! `compare STUDY/X STUDY/Y`: two stored entrants as they stand.

use crate::args::CompareArgs;
use crate::desk::Desk;
use crate::failure::Failure;

pub(super) fn run(_args: &CompareArgs, _desk: &Desk) -> Result<(), Failure> {
    Err(Failure::Failed("under way".into()))
}
