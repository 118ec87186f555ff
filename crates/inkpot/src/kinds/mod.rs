//! The program's part of each kind of study, a folder a kind: the keys of its brief, the sentence and tables of its
//! finding, its figures.
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

use inkpot_lab::{Design, Finding, KindDraft, SearchPlan, StudyKind, StudySummary};

pub(crate) use self::kind::{Brief, Checkable, Checked, OwnKey, Part, Reads, Searches, Tells, Written};

/// Returns the words, tables and figures of a finding.
pub(crate) fn of(summary: &StudySummary) -> &dyn Tells {
    match &summary.finding {
        Finding::Batch(batch) => batch,
        Finding::Sweep(sweep) => sweep,
        Finding::Tournament(tournament) => tournament,
        Finding::Compare(compare) => compare,
        Finding::Tune(tune) => tune,
        Finding::Fit(fit) => fit,
        Finding::Evolve(found) | Finding::Train(found) => found,
    }
}

/// Returns the writer of a design.
pub(crate) fn written(design: &Design) -> &dyn Written {
    match design {
        Design::Batch(batch) => batch,
        Design::Sweep(sweep) => sweep,
        Design::Tournament(tournament) => tournament,
        Design::Compare(compare) => compare,
        Design::Tune(tune) => tune.as_ref(),
        Design::Fit(fit) => fit.as_ref(),
        Design::Evolve(found) | Design::Train(found) => found.as_ref(),
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

/// Returns the reader of this kind's briefs.
pub(crate) fn read(kind: StudyKind) -> Reads {
    match kind {
        StudyKind::Batch => Reads::Played(|_| KindDraft::Batch),
        StudyKind::Sweep => Reads::Played(sweep::read),
        StudyKind::Tournament => Reads::Played(tournament::read),
        StudyKind::Compare => Reads::Played(compare::read),
        StudyKind::Tune => Reads::SearchPlan(tune::read),
        StudyKind::Fit => Reads::SearchPlan(fit::read),
        StudyKind::Evolve => Reads::SearchPlan(evolve::read),
        StudyKind::Train => Reads::SearchPlan(train::read),
    }
}

/// Returns the words of a search.
pub(crate) fn searches(search: &SearchPlan) -> &dyn Searches {
    match search {
        SearchPlan::Tune(tune) => tune.as_ref(),
        SearchPlan::Fit(fit) => fit.as_ref(),
        SearchPlan::Evolve(evolve) => evolve.as_ref(),
        SearchPlan::Train(train) => train.as_ref(),
    }
}
