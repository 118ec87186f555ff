//! What changes while a search goes on: the terms of its best, and the free knobs of these.

use inkpot_figures::{Traces, TracesPanel, Words};
use inkpot_lab::{FreeRange, HistoryLine, Shape};

use super::tables::label;
use super::together::{By, Searched};
use super::words;
use crate::figures::Gallery;
use crate::show::format::{capital, counted};

/// The terms of the best of each generation where it learned, with what it is looked at by and how far the candidates
/// are apart.
pub(super) fn terms(searched: &Searched, gallery: &Gallery) -> Traces {
    let found = searched.found();
    let lines = |figure: &dyn Fn(&HistoryLine) -> Option<f64>| searched.lines(By::Matches, figure);
    let panel = |label: String, repetitions: Vec<Vec<(f64, f64)>>, is_share: bool| TracesPanel {
        label,
        repetitions,
        range: is_share.then_some((0.0, 1.0)),
        is_share,
        names: Vec::new(),
    };
    let mut panels = vec![panel("Fitness of the best".into(), lines(&|line| Some(line.best)), false)];
    let own = &words::chosen(found).terms;
    panels.extend(own.iter().map(|term| {
        let weight = if found.in_turn { String::new() } else { format!(", weight {}", term.weight) };
        let label = format!("{}{weight}", label(&term.figure, gallery.measures));
        let column = format!("term.{}", term.figure);
        panel(label, lines(&|line| line.number(&column)), false)
    }));
    let outcome = format!("{} where it learned", capital(&words::figure(found)));
    panels.push(panel(outcome, lines(&|line| line.number("outcome")), found.is_share));
    panels.push(panel("How far candidates are apart".into(), lines(&|line| line.number("diversity")), false));
    Traces {
        words: Words {
            title: format!("What the fitness of the {} search was made of", found.method.name()),
            subtitle: format!(
                "The best of each generation where it learned; median and quartiles of {}",
                counted(found.seeds.len() as u64, "repetition", "repetitions")
            ),
            caption: caption(gallery),
        },
        spent: By::Matches.axis().into(),
        panels,
    }
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
            if names.is_empty() { text.parse().ok() } else { Some(names.iter().position(|own| own == text)? as f64) }
        };
        TracesPanel {
            label: capital(&free.knob.replace('_', " ")),
            repetitions: searched.lines(By::Matches, value),
            range: Some(range),
            is_share: false,
            names: names.clone(),
        }
    });
    let own = words::chosen(found);
    let few = own.knobs.iter().take(3).map(|(name, value)| format!("{name} {value}"));
    Traces {
        words: Words {
            title: format!("The champion has {}", few.collect::<Vec<_>>().join(", ")),
            subtitle: format!(
                "Free knobs of the best of each generation, over their ranges; median and quartiles of {}",
                counted(found.seeds.len() as u64, "repetition", "repetitions")
            ),
            caption: caption(gallery),
        },
        spent: By::Matches.axis().into(),
        panels: panels.collect(),
    }
}

fn caption(gallery: &Gallery) -> String {
    format!("{}, seed {}. Study {}.", gallery.summary.game, gallery.summary.seed, gallery.summary.study)
}
