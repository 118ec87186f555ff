//! Parsers of entrants, rules and varied knobs on the command line.

use std::path::Path;

use inkpot_core::{KnobValue, Knobs};
use inkpot_lab::{EntrantDraft, VaryDraft, VaryRange};

use crate::agent_file;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::weights;

/// Reads the text for one entrant or several: `KIND`, `KIND:knob=value,...`, either with `LABEL=` in front, a grid
/// `KIND:knob=LOW..HIGH/POINTS`, or agent files (`champion.toml`, `'agents/*.toml'`).
pub(crate) fn entrants(text: &str, desk: &Desk) -> Result<Vec<EntrantDraft>, Failure> {
    let one = entrant(text)?;
    let knobs = weights::with_files(&one.knobs, Path::new(""))?;
    let one = EntrantDraft { knobs, ..one };
    if !agent_file::is_file(&one.agent) {
        return Ok(vec![one]);
    }
    let mut drafts = agent_file::load_all(Path::new(""), &one.agent, desk)?;
    if let ([only], Some(name)) = (drafts.as_mut_slice(), one.name) {
        only.name = Some(name);
    }
    for draft in &mut drafts {
        draft.knobs = one.knobs.over(&draft.knobs);
        draft.vary.clone_from(&one.vary);
    }
    Ok(drafts)
}

/// Reads `KIND`, `KIND:knob=value,...` or either with `LABEL=` in front.
pub(crate) fn entrant(text: &str) -> Result<EntrantDraft, Failure> {
    let (head, (knobs, vary)) = match text.split_once(':') {
        Some((head, knobs)) => (head, grid(knobs, text)?),
        None => (text, (Knobs::default(), Vec::new())),
    };
    let (name, agent) = match head.split_once('=') {
        Some((name, agent)) => (Some(name.to_string()), agent),
        None => (None, head),
    };
    if agent.is_empty() {
        return Err(Failure::wrong(
            format!("`{text}` does not name an agent"),
            "write KIND, KIND:knob=value,... or LABEL=KIND:..., as in `house=fencer:skill=0.6`",
        ));
    }
    Ok(EntrantDraft { name, agent: agent.to_string(), knobs, vary })
}

/// Knobs that are set, and knobs of which each value is an entrant of its own.
type Grid = (Knobs, Vec<(String, VaryRange)>);

/// Reads `knob=value,knob=LOW..HIGH/POINTS`.
fn grid(text: &str, whole: &str) -> Result<Grid, Failure> {
    let (ranges, plain): (Vec<&str>, Vec<&str>) = text.split(',').partition(|item| item.contains(".."));
    let ranges = ranges.into_iter().map(|item| {
        let read = vary(item.trim())?;
        Ok((read.knob, read.range))
    });
    Ok((assignments(&plain.join(","), whole)?, ranges.collect::<Result<_, Failure>>()?))
}

/// Reads `knob=value,knob=value`; `whole` is the argument it is part of.
pub(crate) fn assignments(text: &str, whole: &str) -> Result<Knobs, Failure> {
    let mut knobs = Knobs::default();
    for item in text.split(',').filter(|item| !item.trim().is_empty()) {
        let Some((knob, value)) = item.split_once('=') else {
            return Err(Failure::wrong(
                format!("`{item}` in `{whole}` does not set a knob"),
                "write KNOB=VALUE, separated by commas, as in `skill=0.6,reaction=14`",
            ));
        };
        let knob = knob.trim();
        if knobs.get(knob).is_some() {
            return Err(Failure::wrong(format!("`{whole}` sets `{knob}` twice"), "set each knob once"));
        }
        knobs.set(knob, KnobValue::parse(value.trim()));
    }
    Ok(knobs)
}

/// Reads `KNOB=LOW..HIGH/POINTS` or `KNOB=A,B,C`, with `LABEL.` or `rules.` in front.
pub(crate) fn vary(text: &str) -> Result<VaryDraft, Failure> {
    let wrong = |what: String| {
        Failure::wrong(
            what,
            "write KNOB=LOW..HIGH/POINTS or KNOB=A,B,C, as in `skill=0..1/11` or `rules.touches=3,5,7`",
        )
    };
    let (knob, values) = text.split_once('=').ok_or_else(|| wrong(format!("`{text}` gives no values for the knob")))?;
    let (of, knob) = match knob.rsplit_once('.') {
        Some((of, knob)) => (Some(of.to_string()), knob),
        None => (None, knob),
    };
    let range = match values.split_once("..") {
        Some((low, rest)) => {
            let (high, points) =
                rest.split_once('/').ok_or_else(|| wrong(format!("`{text}` does not say how many points")))?;
            let number = |what: &str, text: &str| {
                text.trim()
                    .parse::<f64>()
                    .ok()
                    .filter(|x| x.is_finite())
                    .ok_or_else(|| wrong(format!("`{text}` is not a {what}")))
            };
            let points = points.trim().parse().map_err(|_| wrong(format!("`{points}` is not a number of points")))?;
            VaryRange::Span { low: number("lower end", low)?, high: number("upper end", high)?, points }
        }
        None => VaryRange::List(values.split(',').map(|value| KnobValue::parse(value.trim())).collect()),
    };
    Ok(VaryDraft { of, knob: knob.to_string(), range })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn entrants_are_read_with_and_without_label_and_knobs() {
        let full = entrant("house=fencer:skill=0.6,reaction=14").unwrap();
        assert_eq!((full.name.as_deref(), full.agent.as_str()), (Some("house"), "fencer"));
        assert_eq!(full.knobs, Knobs::default().with("skill", 0.6).with("reaction", 14.0));
        let bare = entrant("heron").unwrap();
        assert_eq!((bare.name, bare.agent.as_str(), bare.knobs.is_empty()), (None, "heron", true));
        let grid = entrant("fencer:skill=0..1/3,reaction=9").unwrap();
        assert_eq!(grid.vary, [("skill".to_string(), VaryRange::Span { low: 0.0, high: 1.0, points: 3 })]);
        assert_eq!(grid.knobs, Knobs::default().with("reaction", 9.0));
        for wrong in ["", "house=", "fencer:skill", ":skill=1", "fencer:skill=1,skill=2"] {
            assert!(entrant(wrong).is_err(), "{wrong}");
        }
    }

    #[test]
    fn ranges_and_lists_are_read() {
        let span = vary("house.skill=0..1/11").unwrap();
        assert_eq!((span.of.as_deref(), span.knob.as_str()), (Some("house"), "skill"));
        assert_eq!(span.range, VaryRange::Span { low: 0.0, high: 1.0, points: 11 });
        let list = vary("rules.double=both,neither").unwrap();
        assert_eq!(
            list.range,
            VaryRange::List(vec![KnobValue::Word("both".into()), KnobValue::Word("neither".into())])
        );
        for wrong in ["skill", "skill=0..1", "skill=a..1/3", "skill=0..1/x", "skill=0..inf/3"] {
            assert!(vary(wrong).is_err(), "{wrong}");
        }
    }
}
