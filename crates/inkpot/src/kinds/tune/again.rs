//! A difficulty sheet measured again.

use std::path::Path;

use inkpot_lab::{Place, Plan, Sheet, Summary};
use inkpot_ledger::Study;

use crate::desk::Desk;
use crate::failure::Failure;
use crate::level;
use crate::source::Source;
use crate::study::{self, Making};

/// Makes a study that measures a sheet again; a level file that it names is looked up from `base`.
pub(crate) fn measure(
    sheet: &Sheet,
    base: &Path,
    name: Option<&str>,
    desk: &Desk,
) -> Result<(Study, Summary), Failure> {
    let level = level::typed(&sheet.level, &sheet.game, base, desk)?;
    let plan = Plan::proving(sheet, level, &desk.registry).map_err(|problems| {
        Source::Arguments([(Place::default(), "the difficulty sheet".into())].into()).report(&problems, desk.color_err)
    })?;
    study::make_as(&plan, Making { brief: &sheet.proof.brief, name, word: "verify" }, desk)
}
