//! The tables of a tuning: what was turned, and what was wanted and proved.

use inkpot_lab::{SheetKnob, Target, TuneSummary};

use super::words::{short, value, verdict, wanted};
use crate::show::format::span;
use crate::show::table::{Cell, Column, Table};

/// The values of the rungs.
pub(super) fn values(told: &TuneSummary) -> Table {
    let columns = vec![
        Column::text("Rung").once(),
        Column::text("Played by").once(),
        Column::text("Knob"),
        Column::figure("Value"),
        // A search over several knobs has no intervals of its own.
        Column::figure("Interval").optional(),
        Column::text(""),
    ];
    let rows = told.rungs.iter().flat_map(|rung| {
        let players: Vec<&str> = rung.players.iter().map(|player| player.agent.as_str()).collect();
        let row = move |own: &SheetKnob| {
            let cells = vec![
                Cell::text(&rung.name),
                Cell::Text(players.join(", ")),
                Cell::text(short(&own.knob)),
                own.value.number().map_or_else(|| Cell::Text(value(&own.value)), Cell::Number),
                Cell::of(own.low.zip(own.high), |(low, high)| Cell::Text(span(low, high))),
                Cell::of(own.binds.as_ref(), |_| Cell::text("at the end of its range")),
            ];
            (rung.name.clone(), cells)
        };
        rung.turned.iter().map(row)
    });
    Table::new("What was turned", columns).at_most(usize::MAX).with(rows)
}

/// The targets of the rungs.
pub(super) fn targets(told: &TuneSummary) -> Table {
    let columns = vec![
        Column::text("Rung").once(),
        Column::text("Target"),
        Column::text("Wanted"),
        Column::figure("Proved, with interval"),
        Column::text(""),
    ];
    let rows = told.rungs.iter().flat_map(|rung| {
        let row = move |target: &Target| {
            let wish = if target.hard { "" } else { " (a wish)" };
            let seen = target.measured.map(|seen| seen.interval());
            let cells = vec![
                Cell::text(&rung.name),
                Cell::Text(target.full_name()),
                Cell::Text(wanted(target)),
                Cell::of(seen, if target.is_rate() { Cell::Rate } else { Cell::Figure }),
                Cell::Text(format!("{}{wish}", verdict(target).word())),
            ];
            (rung.name.clone(), cells)
        };
        rung.targets.iter().map(row)
    });
    Table::new("What was wanted, and proved", columns).at_most(usize::MAX).with(rows)
}
