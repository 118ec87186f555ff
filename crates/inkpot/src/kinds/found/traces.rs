//! Traces of a search: the terms of its best, and their free knobs.

use inkpot_figures::{Traces, TracesPanel, Words};
use inkpot_lab::{FreeRange, HistoryLine, Shape};

use super::searched::Searched;
use super::tables::label;
use super::words;
use crate::figures::Gallery;
use crate::show::format::{capital, counted};

/// Draws the terms in training: of the best of each generation, or of the matches between two looks. With the
/// yardstick, and the method's own diagnostics.
pub(super) fn terms(searched: &Searched, gallery: &Gallery) -> Traces {
    let found = searched.found();
    let trained = found.method.trains();
    let lines = |figure: &dyn Fn(&HistoryLine) -> Option<f64>| searched.lines(searched.usual(), figure);
    let panel = |label: &str, repetitions: Vec<Vec<(f64, f64)>>, is_share: bool| TracesPanel {
        label: label.into(),
        repetitions,
        range: is_share.then_some((0.0, 1.0)),
        is_share,
        names: Vec::new(),
    };
    let mut panels = vec![if trained {
        panel("Reward of a match, median", lines(&|line| Some(line.median).filter(|x| x.is_finite())), false)
    } else {
        panel("Fitness of the best", lines(&|line| Some(line.best)), false)
    }];
    let terms = &found.chosen().terms;
    panels.extend(terms.iter().map(|term| {
        let weight = if found.in_turn { String::new() } else { format!(", weight {}", term.weight) };
        let label = format!("{}{weight}", label(&term.figure, gallery.measures));
        let column = format!("term.{}", term.figure);
        panel(&label, lines(&|line| line.number(&column)), false)
    }));
    let outcome = format!("{} in training", capital(&words::figure(found)));
    panels.push(panel(&outcome, lines(&|line| line.number("outcome")), found.is_share));
    let others: &[(&str, &str)] = if trained {
        &[
            ("entropy", "Entropy of its decisions (nats)"),
            ("explained", "Share of the returns that are foreseen"),
            ("positions", "Positions in the table"),
        ]
    } else {
        &[("diversity", "How far candidates are apart")]
    };
    let any_line = |lines: &Vec<Vec<(f64, f64)>>| lines.iter().any(|line| !line.is_empty());
    panels.extend(others.iter().filter_map(|(column, label)| {
        let values = lines(&|line| line.number(column));
        any_line(&values).then(|| panel(label, values, false))
    }));
    let whose = if trained { "The matches between two looks" } else { "The best of each generation in training" };
    Traces {
        words: Words {
            title: format!(
                "What the {} of the {} search was made of",
                words::score_name(found).to_lowercase(),
                found.method.name()
            ),
            subtitle: format!(
                "{whose}; median and quartiles of {}",
                counted(found.seeds.len() as u64, "repetition", "repetitions")
            ),
            caption: caption(gallery),
        },
        spent: searched.usual().axis().into(),
        panels,
    }
}

/// Builds the trace of a policy's options in training; none without options.
pub(super) fn shares(searched: &Searched, gallery: &Gallery) -> Option<Traces> {
    let Shape::Network { features, .. } = &searched.aim().candidate.shape else { return None };
    let found = searched.found();
    if !features.actions.is_discrete() || !found.method.trains() {
        return None;
    }
    let panels = features.actions.names().into_iter().map(|option| {
        let column = format!("share.{option}");
        TracesPanel {
            label: capital(option),
            repetitions: searched.lines(searched.usual(), |line| line.number(&column)),
            range: Some((0.0, 1.0)),
            is_share: true,
            names: Vec::new(),
        }
    });
    Some(Traces {
        words: Words {
            title: format!("What the {} search did while it learned", found.method.name()),
            subtitle: format!(
                "Share of each option between two looks; median and quartiles of {}",
                counted(found.seeds.len() as u64, "repetition", "repetitions")
            ),
            caption: caption(gallery),
        },
        spent: searched.usual().axis().into(),
        panels: panels.collect(),
    })
}

/// The free knobs of the best of each generation.
pub(super) fn knobs(searched: &Searched, gallery: &Gallery) -> Traces {
    let found = searched.found();
    let Shape::Knobs { free, .. } = &searched.aim().candidate.shape else {
        unreachable!("only where knobs are free there are knobs to draw")
    };
    let panels = free.iter().map(|free| {
        let column = format!("knob.{}", free.knob);
        let (range, names) = match &free.range {
            FreeRange::Number { low, high, .. } => ((*low, *high), Vec::new()),
            FreeRange::Words(words) => ((0.0, words.len().saturating_sub(1) as f64), words.clone()),
        };
        let value = |line: &HistoryLine| {
            let text = line.text(&column)?;
            if names.is_empty() { text.parse().ok() } else { Some(names.iter().position(|word| word == text)? as f64) }
        };
        TracesPanel {
            label: capital(&free.knob.replace('_', " ")),
            repetitions: searched.lines(searched.usual(), value),
            range: Some(range),
            is_share: false,
            names: names.clone(),
        }
    });
    let seed = found.chosen();
    let few = seed.knobs.iter().take(3).map(|(name, value)| format!("{name} {value}"));
    Traces {
        words: Words {
            title: format!("The champion has {}", few.collect::<Vec<_>>().join(", ")),
            subtitle: format!(
                "Free knobs of the best of each generation, over their ranges; median and quartiles of {}",
                counted(found.seeds.len() as u64, "repetition", "repetitions")
            ),
            caption: caption(gallery),
        },
        spent: searched.usual().axis().into(),
        panels: panels.collect(),
    }
}

fn caption(gallery: &Gallery) -> String {
    format!("{}, seed {}. Study {}.", gallery.summary.game, gallery.summary.seed, gallery.summary.study)
}
