//! The keys of a comparison's brief.

use inkpot_lab::{Compare, CompareDraft, KindDraft, Requirement, StudyKind, StudyPlan};

use crate::brief::{BriefText, Reader};
use crate::kinds::kind::{OwnKey, Written, only};

/// Keys that only a comparison has.
pub(crate) const KEYS: &[OwnKey] = &[
    OwnKey { key: "until", elsewhere },
    OwnKey { key: "equal_within", elsewhere },
    OwnKey { key: "require", elsewhere },
    OwnKey { key: "smallest", elsewhere },
];

fn elsewhere(key: &str, _here: StudyKind) -> (String, String) {
    only(StudyKind::Compare, key)
}

/// Reads them.
pub(crate) fn read(top: &mut Reader) -> KindDraft {
    KindDraft::Compare(CompareDraft {
        until_clear: top.word("until", &["clear"], |word| word).is_some(),
        equal_within: top.number("equal_within"),
        require: top.word("require", &Requirement::ALL, Requirement::name),
        smallest: top.number("smallest"),
    })
}

impl Written for Compare {
    fn noun(&self, _plan: &StudyPlan) -> &'static str {
        "comparison"
    }

    fn write(&self, _plan: &StudyPlan, brief: &mut BriefText) {
        brief.put_some("until", self.until_clear.then_some("clear"));
        brief.put_some("equal_within", self.equal_within);
        brief.put_some("require", self.require.map(Requirement::name));
        brief.put("smallest", self.smallest);
    }
}
