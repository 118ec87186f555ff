//! The names of notes, in the order of their weight.

/// The subject of a note. Its text follows the name and a colon; docs/notes.md has a paragraph on each.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
#[expect(missing_docs, reason = "docs/notes.md says what each is about")]
pub enum Note {
    Failed,
    Crashed,
    Abandoned,
    Late,
    Faults,
    Differs,
    VoidBlocks,
    FewBlocks,
    FewPeople,
    Slow,
    Diverged,
    NoSuccess,
    NotPassed,
    Missed,
    Overfit,
    HeldBack,
    Collapsed,
    Forgot,
    Outlier,
    WrongFitness,
    Stuck,
    FewMatches,
    ShortDiscount,
    BlindValue,
    OneOption,
    Diversity,
    IdleTerm,
    AtEnd,
    OutOfRange,
    Misfit,
    OneRepetition,
    Groups,
    Circles,
    Seeding,
    NoCurve,
    Gap,
    NoEffect,
    Unmoved,
    Stopped,
    Clock,
    Alike,
    CutShort,
    DrawHeavy,
    Seats,
    OneSided,
    Rounded,
    LowerBound,
    Exact,
    Ceiling,
    Decided,
    InFrame,
    Holds,
}

/// All of them, the weightiest first, with their names.
const NAMES: [(Note, &str); 52] = [
    (Note::Failed, "failed"),
    (Note::Crashed, "crashed"),
    (Note::Abandoned, "abandoned"),
    (Note::Late, "late"),
    (Note::Faults, "faults"),
    (Note::Differs, "differs"),
    (Note::VoidBlocks, "void-blocks"),
    (Note::FewBlocks, "few-blocks"),
    (Note::FewPeople, "few-people"),
    (Note::Slow, "slow"),
    (Note::Diverged, "diverged"),
    (Note::NoSuccess, "no-success"),
    (Note::NotPassed, "not-passed"),
    (Note::Missed, "missed"),
    (Note::Overfit, "overfit"),
    (Note::HeldBack, "held-back"),
    (Note::Collapsed, "collapsed"),
    (Note::Forgot, "forgot"),
    (Note::Outlier, "outlier"),
    (Note::WrongFitness, "wrong-fitness"),
    (Note::Stuck, "stuck"),
    (Note::FewMatches, "few-matches"),
    (Note::ShortDiscount, "short-discount"),
    (Note::BlindValue, "blind-value"),
    (Note::OneOption, "one-option"),
    (Note::Diversity, "diversity"),
    (Note::IdleTerm, "idle-term"),
    (Note::AtEnd, "at-end"),
    (Note::OutOfRange, "out-of-range"),
    (Note::Misfit, "misfit"),
    (Note::OneRepetition, "one-repetition"),
    (Note::Groups, "groups"),
    (Note::Circles, "circles"),
    (Note::Seeding, "seeding"),
    (Note::NoCurve, "no-curve"),
    (Note::Gap, "gap"),
    (Note::NoEffect, "no-effect"),
    (Note::Unmoved, "unmoved"),
    (Note::Stopped, "stopped"),
    (Note::Clock, "clock"),
    (Note::Alike, "alike"),
    (Note::CutShort, "cut-short"),
    (Note::DrawHeavy, "draw-heavy"),
    (Note::Seats, "seats"),
    (Note::OneSided, "one-sided"),
    (Note::Rounded, "rounded"),
    (Note::LowerBound, "lower-bound"),
    (Note::Exact, "exact"),
    (Note::Ceiling, "ceiling"),
    (Note::Decided, "decided"),
    (Note::InFrame, "in-frame"),
    (Note::Holds, "holds"),
];

impl Note {
    /// The name.
    fn word(self) -> &'static str {
        NAMES[self as usize].1
    }

    /// Returns the text of a note of this name: the name, a colon, the event and the advice.
    #[must_use]
    pub fn says(self, text: impl AsRef<str>) -> String {
        format!("{}: {}", self.word(), text.as_ref())
    }
}

/// The names of all notes, the weightiest first.
pub fn note_names() -> impl Iterator<Item = &'static str> {
    NAMES.iter().map(|(_, word)| *word)
}

/// Sorts notes by weight; those without a known name stay last, in their order.
pub(crate) fn by_weight(notes: &mut [String]) {
    let weight = |note: &str| {
        let name = note.split(':').next().unwrap_or_default();
        note_names().position(|word| word == name).unwrap_or(NAMES.len())
    };
    notes.sort_by_key(|note| weight(note));
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_stand_in_the_order_of_the_variants_and_are_unlike() {
        assert!(NAMES.iter().enumerate().all(|(place, (note, _))| *note as usize == place));
        let mut names: Vec<&str> = note_names().collect();
        names.sort_unstable();
        names.dedup();
        assert_eq!(names.len(), NAMES.len());
    }

    #[test]
    fn trouble_comes_first_and_what_holds_last() {
        let mut notes = vec![
            Note::Holds.says("a"),
            "an older note".into(),
            Note::Late.says("b"),
            Note::AtEnd.says("c"),
            Note::AtEnd.says("a"),
        ];
        by_weight(&mut notes);
        assert_eq!(notes, ["late: b", "at-end: c", "at-end: a", "holds: a", "an older note"]);
    }
}
