//! The brief of a training, read and written.

use inkpot_lab::{Place, SearchPlan, StudyKind, Train, TrainDraft, resolve_train};

use crate::brief::Reader;
use crate::failure::Failure;
use crate::kinds::found::{
    is_readable, read_aim, read_legs, write_head, write_legs, write_method, write_terms, write_yardstick,
};
use crate::kinds::kind::{Brief, Checkable};

/// Reads the brief of a training.
pub(crate) fn read(brief: &Brief) -> Result<Checkable<SearchPlan>, Failure> {
    let mut top = Reader::new(brief.table, Place::default(), brief.findings);
    let aim = read_aim(&mut top, brief)?;
    let legs = read_legs(&mut top, &aim.game, brief)?;
    let draft =
        TrainDraft { aim, legs, mixed: top.flag("mixed"), self_play: top.flag("self_play"), steps: top.count("steps") };
    top.finish();
    if !is_readable(&draft.aim) {
        return Ok(Err(Vec::new()));
    }
    Ok(resolve_train(&draft, &brief.desk.registry).map(|train| SearchPlan::Train(Box::new(train))))
}

/// The brief of a training with every default filled in. Reading it again gives the same search.
pub(super) fn write(train: &Train) -> String {
    let mut out = String::new();
    let mixed = if train.mixed { "mixed = true\n" } else { "" };
    let head = format!("steps = {}\nself_play = {}\n{mixed}", train.steps, train.self_play);
    write_head(&train.aim, StudyKind::Train, &head, &mut out);
    write_method(train.method.name.name(), &train.method.knobs, &mut out);
    write_terms(&train.aim, StudyKind::Train, &mut out);
    write_legs(&train.legs, &mut out);
    write_yardstick(&train.aim, &mut out);
    out
}
