//! What the program does its own way for each kind of study, a folder a kind: what its brief holds, the sentence and
//! the tables that say what it found, its figures.
//!
//! A new kind is a folder and a line in each of the functions below.

mod batch;
pub(crate) mod compare;
pub(crate) mod evolve;
pub(crate) mod fit;
pub(crate) mod found;
mod kind;
mod sweep;
mod tournament;
mod train;
pub(crate) mod tune;

use inkpot_lab::{Asked, Design, Finding, Sought, StudyKind, StudySummary};

pub(crate) use self::kind::{Brief, Checkable, Checked, OwnKey, Part, Reads, Searches, Tells, Written};

/// How the finding of a study is told.
pub(crate) fn of(summary: &StudySummary) -> &dyn Tells {
    match &summary.finding {
        Finding::Batch(own) => own,
        Finding::Sweep(own) => own,
        Finding::Tournament(own) => own,
        Finding::Compare(own) => own,
        Finding::Tune(own) => own,
        Finding::Fit(own) => own,
        Finding::Evolve(own) | Finding::Train(own) => own,
    }
}

/// How a design is written.
pub(crate) fn written(design: &Design) -> &dyn Written {
    match design {
        Design::Batch(own) => own,
        Design::Sweep(own) => own,
        Design::Tournament(own) => own,
        Design::Compare(own) => own,
        Design::Tune(own) => own.as_ref(),
        Design::Fit(own) => own.as_ref(),
        Design::Evolve(own) | Design::Train(own) => own.as_ref(),
    }
}

/// Keys that only this kind has, among the kinds that are played as drafted.
pub(crate) fn own_keys(kind: StudyKind) -> &'static [OwnKey] {
    match kind {
        StudyKind::Sweep => sweep::KEYS,
        StudyKind::Tournament => tournament::KEYS,
        StudyKind::Compare => compare::KEYS,
        _ => &[],
    }
}

/// What a brief asks for, read as this kind.
pub(crate) fn read(kind: StudyKind) -> Reads {
    match kind {
        StudyKind::Batch => Reads::Played(|_| Asked::Batch),
        StudyKind::Sweep => Reads::Played(sweep::read),
        StudyKind::Tournament => Reads::Played(tournament::read),
        StudyKind::Compare => Reads::Played(compare::read),
        StudyKind::Tune => Reads::Sought(tune::read),
        StudyKind::Fit => Reads::Sought(fit::read),
        StudyKind::Evolve => Reads::Sought(evolve::read),
        StudyKind::Train => Reads::Sought(train::read),
    }
}

/// How a search is told.
pub(crate) fn searches(sought: &Sought) -> &dyn Searches {
    match sought {
        Sought::Tune(own) => own.as_ref(),
        Sought::Fit(own) => own.as_ref(),
        Sought::Evolve(own) => own.as_ref(),
        Sought::Train(own) => own.as_ref(),
    }
}
