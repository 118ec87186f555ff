//! The sheet of berths.

use inkpot_agents::{Graded, drifter, horizon, minimax, playouts, policy, tables, treesearch_reusing};
use inkpot_core::{Entry, GameSheet, Knob, Knobs, Laying, Level, LevelSheet, Measure, Wanted};

use super::basin::{Basin, MOST};
use super::game::Berths;
use super::harbourmaster::harbourmaster;
use super::note;
use crate::standin::{Crowd, standin};

/// The people who play it at the fair.
const PEOPLE: Crowd = Crowd { unit: "options", misjudge: 1.0, hasty: 2.0, most: 12.0 };

/// The game with all its agents.
#[must_use]
pub fn entry() -> Entry<Berths> {
    Entry::new(sheet(), |laying| {
        let start = basin(laying)?;
        let opening = laying.rules.number("opening") as u32;
        Ok(Box::new(move |world| Berths::opened(start, opening, world)))
    })
    .plain_start(|laying| basin(laying).map(Berths::at))
    .noted()
    .optioned()
    .pictured()
    .counted()
    .filed()
    .agent(harbourmaster())
    .agent(
        minimax(&Berths::weights())
            .preset("sandpiper", "looks 2 turns ahead", Knobs::default().with("depth", 2.0))
            .preset("whimbrel", "looks 4 turns ahead", Knobs::default().with("depth", 4.0)),
    )
    .agent(treesearch_reusing(&Berths::weights()))
    .agent(playouts(&Berths::weights()))
    .agent(horizon(&Berths::weights(), &[harbourmaster()]))
    .agent(policy(vec![tables()]))
    .agent(standin(&PEOPLE))
    .agent(drifter(1).graded())
}

/// The basin at the start: an empty one, or that of a level file.
fn basin(laying: &Laying) -> Result<Basin, String> {
    let Laying { rules, level, .. } = *laying;
    let empty = Basin::empty(rules.number("width") as u8, rules.number("length") as u8);
    match level {
        Level::Named { .. } => Ok(empty),
        Level::File { .. } => {
            let basin = note::read(level.text()?, &empty)?;
            let over = basin.options(basin.side()).size() == 0;
            if over { Err("the match is over at this position".into()) } else { Ok(basin) }
        }
    }
}

fn sheet() -> GameSheet {
    GameSheet {
        name: "berths".into(),
        help: "mooring boats: two players moor in turn, one along the rows, one along the columns, until one finds no room"
            .into(),
        seats: 2..=2,
        ticks_per_second: None,
        rules: vec![
            Knob::whole("width", 2..=i64::from(MOST), 4).unit("berths").help("berths in a row, along which south moors"),
            Knob::whole("length", 2..=i64::from(MOST), 4)
                .unit("berths")
                .help("berths in a column, along which north moors"),
            Knob::whole("opening", 0..=6, 2)
                .unit("plies")
                .help("random moves that open the match, the same in every seat order; 0 always starts alike"),
        ],
        levels: vec![LevelSheet::new("basin", "an empty basin")],
        level_file: Some("a position as text, where every match begins".into()),
        measures: measures(),
        without_chance: Some(Knobs::default().with("opening", 0.0)),
    }
}

/// In the order of `Tally::figures`.
fn measures() -> Vec<Measure> {
    vec![
        Measure::seat("options_left", "Options left", "options", "moves it still has at the end").wanted(Wanted::More),
        Measure::seat("safe_left", "Safe options", "options", "moves left at the end that the other cannot take away")
            .wanted(Wanted::More),
        Measure::seat("branching", "Branching", "options", "mean number of moves it could choose from"),
        Measure::of_match("plies", "Plies", "", "moves of both, the opening not counted"),
        Measure::of_match(
            "largest_swing",
            "Largest swing",
            "options",
            "largest change, by one move, in how many more options one side has than the other",
        ),
    ]
}
