//! Several studies on one page.

use inkpot_figures::{PageFigure, Rates, RatesRow, Section, Words};
use inkpot_lab::compare_stored;

use super::reported::Reported;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::figures::estimate;
use crate::kinds;
use crate::kinds::compare::words::sentence;
use crate::kinds::found::searched::Searched;
use crate::kinds::found::together::{comparable, compared, learning};
use crate::show::format::counted;
use crate::show::table::{Cell, Column, Table};
use crate::spent_by::By;
use crate::telling::finding;

/// Compares several studies: the finding of each, and entrants of one name over all of them.
pub(super) fn together(studies: &[Reported], desk: &Desk) -> Result<Section, Failure> {
    let columns = vec![Column::text("Study"), Column::text("Kind"), Column::text("Game"), Column::figure("Matches")];
    let row = |reported: &Reported| {
        let cells = vec![
            Cell::text(reported.study.name()),
            Cell::text(reported.summary.kind().name()),
            Cell::text(&reported.summary.game),
            Cell::Count(reported.summary.matches),
            Cell::Text(finding(&reported.summary)),
        ];
        (reported.study.name().to_string(), cells)
    };
    let list = Table::new("The studies", columns).with(studies.iter().map(row));
    let (shared, figure) = same_names(studies, desk);
    let (searched, learning) = searches(studies, desk)?;
    let named = |reported: &Reported, text: &str| format!("{}: {text}", reported.study.name());
    let mut found: Vec<String> = studies.iter().map(|reported| named(reported, &finding(&reported.summary))).collect();
    found.extend(shared);
    found.extend(searched);
    let notes =
        |reported: &Reported| reported.summary.notes.iter().map(|note| named(reported, note)).collect::<Vec<_>>();
    Ok(Section {
        id: "together".into(),
        title: "What was found".into(),
        warnings: studies.iter().flat_map(notes).collect(),
        found,
        figures: figure.into_iter().chain(learning).collect(),
        tables: list.page().into_iter().collect(),
        ..Section::default()
    })
}

/// Compares searches of one yardstick: costs until the target, and learning curves.
fn searches(studies: &[Reported], desk: &Desk) -> Result<(Vec<String>, Option<PageFigure>), Failure> {
    let mut searched = Vec::new();
    for reported in studies {
        searched.extend(Searched::open(&reported.study, &reported.summary, desk)?);
    }
    if searched.len() < 2 || comparable(&searched).is_err() {
        return Ok((Vec::new(), None));
    }
    let drawing = learning(&searched, By::Matches)?;
    Ok((compared(&searched, By::Matches), Some(PageFigure::new("learning of all", &drawing))))
}

/// Entrants that several studies of one game have: their rates in a figure, and how each differs from the first.
fn same_names(studies: &[Reported], desk: &Desk) -> (Vec<String>, Option<PageFigure>) {
    let plain = |reported: &&Reported| kinds::of(&reported.summary).has_entrants();
    let several: Vec<&Reported> = studies.iter().filter(plain).collect();
    let (mut sentences, mut rows) = (Vec::new(), Vec::new());
    let mut done: Vec<(&str, &str)> = Vec::new();
    for first in &several {
        for (place, entrant) in first.summary.entrants.iter().enumerate() {
            let key = (first.summary.game.as_str(), entrant.name.as_str());
            let place_in =
                |reported: &Reported| reported.summary.entrants.iter().position(|other| other.name == entrant.name);
            let others: Vec<(&Reported, usize)> = several
                .iter()
                .filter(|reported| reported.summary.game == key.0 && reported.study.name() != first.study.name())
                .filter_map(|reported| Some((*reported, place_in(reported)?)))
                .collect();
            if done.contains(&key) || others.is_empty() {
                continue;
            }
            done.push(key);
            for (reported, place) in std::iter::once((*first, place)).chain(others.iter().copied()) {
                let entrant = &reported.summary.entrants[place];
                rows.extend(entrant.win_rate.map(|rate| RatesRow {
                    name: format!("{} in {}", entrant.name, reported.study.name()),
                    rate: estimate(&rate),
                    record: [entrant.wins, entrant.draws, entrant.losses],
                }));
            }
            for (reported, other) in others {
                sentences.extend(difference(first, place, reported, other, desk));
            }
        }
    }
    if rows.is_empty() {
        return (sentences, None);
    }
    let words = Words {
        title: "The same entrants in several studies".into(),
        subtitle: "Win rate over all they played there".into(),
        caption: "Intervals over blocks, at the confidence of each study. Opponents may differ from study to study."
            .into(),
    };
    let drawing = Rates { words, rows }.draw();
    (sentences, Some(PageFigure::new("the same entrants in several studies", &drawing)))
}

/// Writes the difference of an entrant's win rates in two studies.
fn difference(a: &Reported, a_place: usize, b: &Reported, b_place: usize, desk: &Desk) -> Option<String> {
    let game = desk.game(&a.summary.game).ok()?;
    let comparison = compare_stored(a.stored(a_place), b.stored(b_place), game, (None, None)).ok()?;
    let sentence = sentence(&comparison, a.summary.confidence);
    // Paired by block: where one study is longer, its rates over all it played say something else.
    let longer = a.summary.seed == b.summary.seed && a.summary.blocks != b.summary.blocks && comparison.blocks > 0;
    let shared = counted(comparison.blocks, "block that both played counts", "blocks that both played count");
    Some(if longer { format!("{sentence} Only the {shared}.") } else { sentence })
}
