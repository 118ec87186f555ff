//! The sheet of sowing.

use inkpot_agents::{Graded, drifter, horizon, minimax, playouts, policy, tables, treesearch_reusing};
use inkpot_core::{Entry, GameSheet, Knob, Knobs, Laying, Level, LevelSheet, Measure, Wanted};

use super::board::{Board, MOST_PITS};
use super::game::Sowing;
use super::grabber::grabber;
use super::note;
use crate::standin::{Crowd, standin};

/// The people who play it at the fair.
const PEOPLE: Crowd = Crowd { unit: "seeds", misjudge: 0.8, hasty: 1.6, most: 12.0 };

/// The game with all its agents.
pub fn entry() -> Entry<Sowing> {
    Entry::new(sheet(), |laying| {
        let start = board(laying)?;
        let opening = laying.rules.number("opening") as u32;
        Ok(Box::new(move |world| Sowing::opened(start, opening, world)))
    })
    .plain_start(|laying| board(laying).map(Sowing::at))
    .noted()
    .optioned()
    .pictured()
    .counted()
    .filed()
    .agent(grabber())
    .agent(
        minimax(&Sowing::weights())
            .preset("sanderling", "looks 2 turns ahead", Knobs::default().with("depth", 2.0))
            .preset("plover", "looks 4 turns ahead", Knobs::default().with("depth", 4.0))
            .preset("curlew", "looks 8 turns ahead", Knobs::default().with("depth", 8.0)),
    )
    .agent(treesearch_reusing(&Sowing::weights()))
    .agent(playouts(&Sowing::weights()))
    .agent(horizon(&Sowing::weights(), &[grabber()]))
    .agent(policy(vec![tables()]))
    .agent(standin(&PEOPLE))
    .agent(drifter(1).graded())
}

/// The board at the start: an even one, or that of a level file.
fn board(laying: &Laying) -> Result<Board, String> {
    let Laying { rules, level, .. } = *laying;
    let pits = rules.number("pits") as u8;
    match level {
        Level::Named { .. } => Ok(Board::start(pits, rules.number("seeds") as u8)),
        Level::File { .. } => {
            let board = note::read(level.text()?, usize::from(pits))?;
            if board.to_move().is_none() { Err("the match is over at this position".into()) } else { Ok(board) }
        }
    }
}

fn sheet() -> GameSheet {
    GameSheet {
        name: "sowing".into(),
        help: "seeds and pits: two players sow in turn on a board where nothing is hidden".into(),
        seats: 2..=2,
        ticks_per_second: None,
        rules: vec![
            Knob::whole("pits", 1..=MOST_PITS as i64, 6).help("pits a side"),
            Knob::whole("seeds", 1..=8, 4).help("seeds in each pit at the start"),
            Knob::whole("opening", 0..=12, 4)
                .unit("plies")
                .help("random moves that open the match, the same in every seat order; 0 always starts alike"),
        ],
        levels: vec![LevelSheet::new("board", "two rows of pits, a store at each end")],
        level_file: Some("a position as text, where every match begins; `seeds` then has no effect".into()),
        measures: measures(),
        without_chance: Some(Knobs::default().with("opening", 0.0)),
    }
}

/// In the order of `Tally::figures`.
fn measures() -> Vec<Measure> {
    vec![
        Measure::seat("captures", "Captures", "", "moves that took seeds from the other side").wanted(Wanted::More),
        Measure::seat("extra_moves", "Extra moves", "", "moves that ended in the mover's store").wanted(Wanted::More),
        Measure::seat("branching", "Branching", "options", "mean number of moves it could choose from"),
        Measure::of_match("plies", "Plies", "", "moves of both, the opening not counted"),
        Measure::of_match("lead_changes", "Lead changes", "", "how often the lead passed from one to the other"),
        Measure::of_match("largest_swing", "Largest swing", "seeds", "most seeds that one move brought its mover"),
        Measure::of_match("margin", "Margin", "seeds", "difference in seeds at the end"),
    ]
}
