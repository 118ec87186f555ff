//! Difficulty modifiers: values and signed percentages over the knobs of a base.

use inkpot_core::{Knob, KnobError, KnobRange, KnobValue, Knobs};
use serde::{Deserialize, Serialize};

/// A profile's change to a knob.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub(crate) enum Modifier {
    /// Sets it.
    Set(KnobValue),
    /// Changes it by this percentage of its value in the base.
    Percent(f64),
}

impl Modifier {
    /// Reads a value of a profile: a word like `+20 %` or `-7.5%` is a percentage.
    pub(crate) fn of(value: &KnobValue) -> Self {
        match value {
            KnobValue::Word(word) => match percentage(word) {
                Some(percent) => Self::Percent(percent),
                None => Self::Set(value.clone()),
            },
            KnobValue::Number(_) | KnobValue::File { .. } => Self::Set(value.clone()),
        }
    }
}

/// The number of a signed percentage.
fn percentage(word: &str) -> Option<f64> {
    let number = word.trim().strip_suffix('%')?.trim();
    let signed = number.starts_with(['+', '-', '\u{2212}']);
    let number: f64 = number.replace('\u{2212}', "-").parse().ok()?;
    (signed && number.is_finite()).then_some(number)
}

/// Applies the modifiers of a profile to the knobs of a base: values are set before the base is filled in, so that
/// followers move with their master; percentages apply to the resulting values. Values beyond a knob's range are
/// clamped. Errs if the set values are inconsistent.
pub(crate) fn modified(
    base: &Knobs,
    modifiers: &[(String, Modifier)],
    free: &Knobs,
    knobs: &[Knob],
) -> Result<Knobs, Vec<KnobError>> {
    let set: Knobs = modifiers
        .iter()
        .filter_map(|(name, modifier)| match modifier {
            Modifier::Set(value) => Some((name.clone(), value.clone())),
            Modifier::Percent(_) => None,
        })
        .collect();
    let mut all = free.over(&set).layered(base, knobs).resolve(knobs)?;
    for (name, modifier) in modifiers {
        let (Modifier::Percent(percent), Some(knob)) = (modifier, knobs.iter().find(|knob| knob.name == *name)) else {
            continue;
        };
        if let Some(value) = all.get(name).and_then(KnobValue::number) {
            all.set(name, KnobValue::Number(held(knob, changed(value, *percent))));
        }
    }
    Ok(all)
}

/// A value after a percentage.
pub(crate) fn changed(value: f64, percent: f64) -> f64 {
    value + value.abs() * percent / 100.0
}

/// A number within the range of a knob, whole where the knob is.
pub(crate) fn held(knob: &Knob, value: f64) -> f64 {
    let value = if matches!(knob.range, KnobRange::Whole { .. }) { value.round() } else { value };
    knob.bounds().map_or(value, |(low, high)| value.clamp(low, high))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn knobs() -> Vec<Knob> {
        vec![
            Knob::real("skill", 0.0..=1.0, 0.5),
            Knob::real("reaction", 0.0..=60.0, 12.0).follows("skill", |s| 24.0 - 20.0 * s),
            Knob::whole("depth", 1..=9, 4),
            Knob::choice("double", &["both", "neither"]),
        ]
    }

    fn word(text: &str) -> Modifier {
        Modifier::of(&KnobValue::Word(text.into()))
    }

    #[test]
    fn only_a_signed_number_with_a_percent_sign_is_a_percentage() {
        assert_eq!(word("-20 %"), Modifier::Percent(-20.0));
        assert_eq!(word("+7.5%"), Modifier::Percent(7.5));
        assert_eq!(word("\u{2212}5 %"), Modifier::Percent(-5.0));
        for other in ["20 %", "neither", "+x %", "+20"] {
            assert!(matches!(word(other), Modifier::Set(_)), "{other}");
        }
    }

    #[test]
    fn percentages_are_of_what_the_free_knobs_make_of_the_base() {
        let modifiers = [("reaction".to_string(), Modifier::Percent(-50.0)), ("depth".into(), Modifier::Percent(20.0))];
        let at = |skill: f64| {
            modified(&Knobs::default(), &modifiers, &Knobs::default().with("skill", skill), &knobs()).unwrap()
        };
        assert_eq!(at(0.0).number("reaction"), 12.0);
        assert_eq!(at(1.0).number("reaction"), 2.0);
        assert_eq!(at(1.0).number("depth"), 5.0); // 4.8, rounded
    }

    #[test]
    fn values_are_held_within_the_range() {
        let modifiers = [("reaction".to_string(), Modifier::Percent(900.0))];
        assert_eq!(
            modified(&Knobs::default(), &modifiers, &Knobs::default(), &knobs()).unwrap().number("reaction"),
            60.0
        );
    }
}
