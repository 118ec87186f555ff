//! The keys of a tournament's brief.

use inkpot_lab::{Format, KindDraft, StudyKind, StudyPlan, Tournament, TournamentDraft};

use crate::brief::{BriefText, Reader};
use crate::kinds::kind::{OwnKey, Written, only};

/// Keys that only a tournament has.
pub(crate) const KEYS: &[OwnKey] =
    &[OwnKey { key: "format", elsewhere }, OwnKey { key: "rounds", elsewhere }, OwnKey { key: "anchor", elsewhere }];

fn elsewhere(key: &str, _here: StudyKind) -> (String, String) {
    only(StudyKind::Tournament, key)
}

/// Reads them.
pub(crate) fn read(top: &mut Reader) -> KindDraft {
    KindDraft::Tournament(TournamentDraft {
        format: top.word("format", &Format::ALL, Format::name),
        rounds: top.count("rounds"),
        anchor: top.text("anchor"),
    })
}

impl Written for Tournament {
    fn write(&self, plan: &StudyPlan, brief: &mut BriefText) {
        brief.put("format", self.format.name());
        if self.format == Format::Swiss {
            brief.put("rounds", self.rounds as i64);
        }
        brief.put_some("anchor", self.anchor.map(|anchor| plan.entrants[anchor].name.as_str()));
    }
}
