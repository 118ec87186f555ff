//! Tables: left-aligned names, right-aligned numbers, a thin rule under the header, nothing around the cells.

use comfy_table::{Attribute, Cell, CellAlignment, ContentArrangement, LineStyle, Table, TableStyle};

/// Tables are at most this wide.
const WIDTH: u16 = 100;

/// A column: its heading and how it is set.
#[derive(Clone, Copy)]
pub(crate) enum Column {
    /// Text, to the left.
    Text(&'static str),
    /// Figures, to the right.
    Figure(&'static str),
}

/// A table as text.
pub(crate) fn table(columns: &[Column], rows: &[Vec<String>], color: bool) -> String {
    build(columns, |_, fixed| fixed.to_string(), rows, color)
}

fn build(columns: &[Column], heading: impl Fn(usize, &str) -> String, rows: &[Vec<String>], color: bool) -> String {
    let mut table = Table::new();
    table.load_style(TableStyle::new().header_separator(LineStyle::none().fill('─').junction('─')));
    table.set_content_arrangement(ContentArrangement::Dynamic).set_width(WIDTH).force_no_tty();
    if color {
        table.enforce_styling();
    }
    table.set_header(columns.iter().enumerate().map(|(index, column)| {
        let (Column::Text(fixed) | Column::Figure(fixed)) = column;
        Cell::new(heading(index, fixed)).add_attribute(Attribute::Bold)
    }));
    table.add_rows(rows.iter().map(|row| row.iter().map(Cell::new).collect::<Vec<_>>()));
    for (index, column) in columns.iter().enumerate() {
        if let Some(set) = table.column_mut(index) {
            let right = matches!(column, Column::Figure(_));
            set.set_cell_alignment(if right { CellAlignment::Right } else { CellAlignment::Left });
            set.set_padding((0, 2));
        }
    }
    table.trim_fmt()
}

/// A table whose first headings are given by data, as far as `names` go.
pub(crate) fn headed(columns: &[Column], names: &[String], rows: &[Vec<String>], color: bool) -> String {
    build(columns, |index, fixed| names.get(index).cloned().unwrap_or_else(|| fixed.into()), rows, color)
}

/// A table whose last headings are given by data.
pub(crate) fn named(columns: &[Column], names: &[String], rows: &[Vec<String>], color: bool) -> String {
    let first = columns.len() - names.len();
    let heading = |index: usize, fixed: &str| match index.checked_sub(first) {
        Some(own) => names[own].clone(),
        None => fixed.to_string(),
    };
    build(columns, heading, rows, color)
}
