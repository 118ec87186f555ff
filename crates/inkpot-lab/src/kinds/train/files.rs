//! The files of a champion, with its earlier states.

use std::collections::HashMap;
use std::fmt::Write;

use inkpot_learn::{Body, Network, ValueTable, Weights};

/// The columns of the file of a table.
const COLUMNS: &str = "position,option,value,visits";

/// The table as a file: a line a position and option, in order.
pub(super) fn table(table: &ValueTable<String>) -> Vec<u8> {
    let mut rows: Vec<_> = table.rows().collect();
    rows.sort_by(|a, b| a.0.cmp(b.0));
    let mut text = String::from(COLUMNS);
    text.push('\n');
    for (position, values, visits) in rows {
        for (option, (value, visits)) in values.iter().zip(visits).enumerate() {
            let _ = writeln!(text, "{},{},{value},{visits}", quoted(position), option + 1);
        }
    }
    text.into_bytes()
}

/// Writes the values of options by position as a file of the same kind, without visits.
pub(super) fn answers<'a>(rows: impl Iterator<Item = (&'a String, &'a Vec<f64>)>) -> Vec<u8> {
    let mut text = String::from(COLUMNS);
    text.push('\n');
    for (position, values) in rows {
        for (option, value) in values.iter().enumerate() {
            let _ = writeln!(text, "{},{},{value},0", quoted(position), option + 1);
        }
    }
    text.into_bytes()
}

/// A cell of text.
fn quoted(text: &str) -> String {
    format!("\"{}\"", text.replace('"', "\"\""))
}

/// Builds the file of a champion with its earlier states at these shares of the training, each as a file of its kind.
///
/// # Panics
/// When one of them was not written by a learner.
pub(super) fn with_earlier(last: &[u8], earlier: &[(f64, &[u8])]) -> Vec<u8> {
    match std::str::from_utf8(last) {
        Ok(text) if text.starts_with(COLUMNS) => table_with(text, earlier),
        _ => network_with(last, earlier),
    }
}

fn network_with(last: &[u8], earlier: &[(f64, &[u8])]) -> Vec<u8> {
    let read = |bytes: &[u8]| Weights::from_bytes(bytes).expect("it was written by a learner");
    let mut weights = read(last);
    weights.earlier = earlier
        .iter()
        .filter_map(|(share, bytes)| match read(bytes).body {
            Body::Network(Network::Dense(dense)) => Some((*share, dense)),
            _ => None,
        })
        .collect();
    weights.to_bytes()
}

/// A column more for each: `value_0.25`, empty where the position was not known by then.
fn table_with(last: &str, earlier: &[(f64, &[u8])]) -> Vec<u8> {
    let columns: Vec<HashMap<&str, &str>> = earlier.iter().map(|(_, bytes)| values(bytes)).collect();
    let mut text = String::new();
    for (line, row) in last.lines().enumerate() {
        text.push_str(row);
        for ((share, _), column) in earlier.iter().zip(&columns) {
            let _ = match line {
                0 => write!(text, ",value_{share}"),
                _ => write!(text, ",{}", column.get(named(row).0).copied().unwrap_or_default()),
            };
        }
        text.push('\n');
    }
    text.into_bytes()
}

/// The value of each position and option.
fn values(bytes: &[u8]) -> HashMap<&str, &str> {
    std::str::from_utf8(bytes).unwrap_or_default().lines().skip(1).map(named).collect()
}

/// Splits a line into its name and its value.
fn named(line: &str) -> (&str, &str) {
    let (rest, _visits) = line.rsplit_once(',').unwrap_or_default();
    rest.rsplit_once(',').unwrap_or_default()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_table_keeps_what_it_was_on_the_way() {
        let head = "position,option,value,visits\n";
        let earlier = format!("{head}\"a,b\",1,0.5,1\n\"a,b\",2,0,0\n");
        let last = format!("{head}\"a,b\",1,0.75,3\n\"a,b\",2,-1,2\n\"c\",1,1,1\n");
        let both = with_earlier(last.as_bytes(), &[(0.0, head.as_bytes()), (0.25, earlier.as_bytes())]);
        assert_eq!(
            String::from_utf8(both).unwrap(),
            "position,option,value,visits,value_0,value_0.25\n\"a,b\",1,0.75,3,,0.5\n\"a,b\",2,-1,2,,0\n\"c\",1,1,1,,\n"
        );
    }
}
