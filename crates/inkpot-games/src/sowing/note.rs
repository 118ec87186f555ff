//! The position text of sowing: `4,4,4,4,4,4/4,4,4,4,4,4/0:0/south`.
//!
//! North's pits and then south's, both from south's left to right, as the board lies before south; north's store and
//! south's; who is to move, or `over`.

use super::board::Board;

const SIDES: [&str; 2] = ["south", "north"];
const HOW: &str = "write NORTH'S PITS/SOUTH'S PITS/STORES/WHO MOVES, as in `4,4,4,4,4,4/4,4,4,4,4,4/0:0/south`: pits from \
                   south's left, north's store before south's";

/// The board as text.
pub(crate) fn write(board: &Board) -> String {
    let list = |seeds: &mut dyn Iterator<Item = u8>| seeds.map(|seeds| seeds.to_string()).collect::<Vec<_>>().join(",");
    format!(
        "{}/{}/{}:{}/{}",
        list(&mut board.row(1).rev()),
        list(&mut board.row(0)),
        board.store(1),
        board.store(0),
        board.to_move().map_or("over", |side| SIDES[side]),
    )
}

/// Reads a board with `pits` pits a side.
pub(crate) fn read(text: &str, pits: usize) -> Result<Board, String> {
    let parts: Vec<&str> = text.trim().split('/').collect();
    let [north, south, stores, side] = parts.as_slice() else {
        return Err(format!("a position has four parts with slashes between them, not {}; {HOW}", parts.len()));
    };
    let mut north = numbers(north, ',')?;
    let south = numbers(south, ',')?;
    let stores = numbers(stores, ':')?;
    let [north_store, south_store] = stores.as_slice() else {
        return Err(format!("`{text}` has {} stores, not 2; {HOW}", stores.len()));
    };
    for (who, row) in [("north", &north), ("south", &south)] {
        if row.len() != pits {
            return Err(format!(
                "{who} has {} pits, but the rules say {pits}; set the rules to fit, as in `--rules pits={}`",
                row.len(),
                row.len()
            ));
        }
    }
    let over = side.trim() == "over";
    let to_move = SIDES.iter().position(|name| *name == side.trim());
    let Some(to_move) = to_move.or(over.then_some(0)) else {
        return Err(format!("`{side}` is not a side that moves; {HOW}"));
    };
    north.reverse();
    let board = Board::of([&south, &north], [*south_store, *north_store], to_move as u8)?;
    if over && board.to_move().is_some() {
        return Err(format!("both sides of `{text}` have seeds, so it is not over; say who moves"));
    }
    Ok(board)
}

fn numbers(text: &str, between: char) -> Result<Vec<u8>, String> {
    let number = |item: &str| item.trim().parse().map_err(|_| format!("`{item}` is not a number of seeds; {HOW}"));
    text.split(between).map(number).collect()
}
