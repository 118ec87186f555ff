//! The position text of berths: `..../.##./.#../.#../north`.
//!
//! The rows from north to south, each from the west: `#` for a berth that is taken, `.` for a free one; then who is to
//! move.

use super::basin::{Basin, Mooring};

const SIDES: [&str; 2] = ["south", "north"];
const FREE: char = '.';
const TAKEN: char = '#';
const HOW: &str = "write the rows from north to south and then who moves, as in `..../.##./.#../.#../north`: `#` for a berth \
                   that is taken, `.` for a free one";

/// The basin as text.
pub(crate) fn write(basin: &Basin) -> String {
    let mut text = String::new();
    for row in 0..basin.length() {
        let berth = |column| if basin.is_taken(Mooring::at(column, row)) { TAKEN } else { FREE };
        text.extend((0..basin.width()).map(berth));
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
            "the basin is {wide} x {}, but the rules say {width} x {length}; set the rules to fit, as in `--rules \
             width={wide},length={}`",
            rows.len(),
            rows.len()
        ));
    }
    let mut taken = Vec::new();
    for (row, line) in rows.iter().enumerate() {
        if line.chars().count() != width {
            return Err(format!("row {} has {} berths, not {width}; {HOW}", row + 1, line.chars().count()));
        }
        for (column, berth) in line.chars().enumerate() {
            match berth {
                TAKEN => taken.push(Mooring::at(column as u8, row as u8)),
                FREE => {}
                _ => return Err(format!("`{berth}` in row {} is not a berth; {HOW}", row + 1)),
            }
        }
    }
    Ok(Basin::empty(like.width(), like.length()).with(taken.into_iter(), to_move as u8))
}
