//! The position text of berths: `..../.ss./.n../.n../north`.
//!
//! The rows from north to south, each from the west: `s` and `n` for a berth under a boat of south's or north's, `.` for
//! a free one; then who is to move.

use super::basin::{Basin, Mooring};

const SIDES: [&str; 2] = ["south", "north"];
const BOATS: [char; 2] = ['s', 'n'];
const HOW: &str = "write the rows from north to south and then who moves, as in `..../.ss./.n../.n../north`: `s` and `n` for a \
                   berth under a boat of south's or north's, `.` for a free one";

/// The basin as text.
pub(crate) fn write(basin: &Basin) -> String {
    let mut text = String::new();
    for row in 0..basin.length() {
        text.extend(
            (0..basin.width()).map(|column| basin.owner(Mooring::at(column, row)).map_or('.', |side| BOATS[side])),
        );
        text.push('/');
    }
    text + SIDES[basin.side()]
}

/// Reads a basin as large as this one.
pub(crate) fn read(text: &str, like: &Basin) -> Result<Basin, String> {
    let mut rows: Vec<&str> = text.trim().split('/').collect();
    let side = rows.pop().unwrap_or_default();
    let Some(to_move) = SIDES.iter().position(|name| *name == side) else {
        return Err(format!("`{side}` is not a side that moves; {HOW}"));
    };
    let (width, length) = (usize::from(like.width()), usize::from(like.length()));
    let wide = rows.first().map_or(0, |row| row.chars().count());
    if rows.len() != length || wide != width {
        return Err(format!(
            "the basin is {wide} x {}, but the rules say {width} x {length}; set the rules to fit, as in `--rules width={wide},length={}`",
            rows.len(),
            rows.len()
        ));
    }
    let mut boats = [0u64; 2];
    for (row, line) in rows.iter().enumerate() {
        if line.chars().count() != width {
            return Err(format!("row {} has {} berths, not {width}; {HOW}", row + 1, line.chars().count()));
        }
        for (column, berth) in line.chars().enumerate() {
            match BOATS.iter().position(|boat| *boat == berth) {
                Some(side) => boats[side] |= 1 << (row * 8 + column),
                None if berth == '.' => {}
                None => return Err(format!("`{berth}` in row {} is not a berth; {HOW}", row + 1)),
            }
        }
    }
    Basin::empty(like.width(), like.length()).with(boats, to_move as u8)
}
