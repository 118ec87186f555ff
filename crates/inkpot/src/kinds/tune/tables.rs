//! The tables of a tuning: tuned knobs, and targets with proofs.

use inkpot_lab::{SheetKnob, Target, TuneSummary};

use super::words::{short, value, verdict, wanted};
use crate::show::format::span;
use crate::show::table::{Cell, Column, On, Table};

/// The values of the rungs.
pub(super) fn values(tuning: &TuneSummary) -> Table {
    let columns = vec![
        Column::text("Rung").once(),
        Column::text("Title").once().only(On::Page).optional(),
        Column::text("Played by").once(),
        Column::text("Knob"),
        Column::figure("Value"),
        // A search over several knobs has no intervals of its own.
        Column::figure("Interval").optional(),
        Column::text(""),
    ];
    let rows = tuning.rungs.iter().flat_map(|rung| {
        let players: Vec<&str> = rung.players.iter().map(|player| player.agent.as_str()).collect();
        let row = move |knob: &SheetKnob| {
            let cells = vec![
                Cell::text(&rung.name),
                Cell::of(rung.title.values().next(), Cell::text),
                Cell::Text(players.join(", ")),
                Cell::text(short(&knob.knob)),
                knob.value.number().map_or_else(|| Cell::Text(value(&knob.value)), Cell::Number),
                Cell::of(knob.low.zip(knob.high), |(low, high)| Cell::Text(span(low, high))),
                Cell::of(knob.binds.as_ref(), |_| Cell::text("at the end of its range")),
            ];
            (rung.name.clone(), cells)
        };
        rung.turned.iter().map(row)
    });
    Table::new("What was turned", columns).at_most(usize::MAX).with(rows)
}

/// The targets of the rungs.
pub(super) fn targets(tuning: &TuneSummary) -> Table {
    let columns = vec![
        Column::text("Rung").once(),
        Column::text("Title").once().only(On::Page).optional(),
        Column::text("Target"),
        Column::text("Wanted"),
        Column::figure("Proved, with interval"),
        Column::text(""),
    ];
    let rows = tuning.rungs.iter().flat_map(|rung| {
        let row = move |target: &Target| {
            let wish = if target.hard { "" } else { " (a wish)" };
            let interval = target.measured.map(|interval| interval.interval());
            let cells = vec![
                Cell::text(&rung.name),
                Cell::of(rung.title.values().next(), Cell::text),
                Cell::Text(target.full_name()),
                Cell::Text(wanted(target)),
                Cell::of(interval, if target.is_rate() { Cell::Rate } else { Cell::Figure }),
                Cell::Text(format!("{}{wish}", verdict(target).word())),
            ];
            (rung.name.clone(), cells)
        };
        rung.targets.iter().map(row)
    });
    Table::new("What was wanted, and proved", columns).at_most(usize::MAX).with(rows)
}
