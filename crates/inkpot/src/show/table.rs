//! Tables: built once as data, rendered for the terminal and for the report page.
//!
//! In the terminal names stand left and numbers right, with a thin rule under the header and nothing around the cells.

use comfy_table::{Attribute, CellAlignment, ContentArrangement, LineStyle, TableStyle};
use inkpot_core::KnobValue;
use inkpot_figures::{PageTable, TableCell, TableRow};
use inkpot_stats::{Interval, Mean};

use super::format::{bar, count, ends, figure, mean, percent, plain, rate, said, said_figure, said_mean};

/// Tables of the terminal are at most this wide.
const WIDTH: u16 = 100;
/// Rows shown in the terminal and on the page, unless a table says otherwise.
const TERMINAL_ROWS: usize = 40;
const PAGE_ROWS: usize = 200;
/// Cells of a bar.
const BAR: usize = 14;

/// The medium of an output.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum On {
    Both,
    Terminal,
    Page,
}

impl On {
    fn shows(self, medium: Self) -> bool {
        self == Self::Both || self == medium
    }
}

/// A column: its heading, how it is set, and where.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Column {
    heading: String,
    figures: bool,
    on: On,
    /// Whether a value that stands above already is left out in the terminal.
    once: bool,
    /// Whether it is left out where no row has anything in it.
    optional: bool,
}

impl Column {
    /// Text, to the left.
    pub(crate) fn text(heading: impl Into<String>) -> Self {
        Self { heading: heading.into(), figures: false, on: On::Both, once: false, optional: false }
    }

    /// Figures, to the right.
    pub(crate) fn figure(heading: impl Into<String>) -> Self {
        Self { figures: true, ..Self::text(heading) }
    }

    pub(crate) fn only(self, on: On) -> Self {
        Self { on, ..self }
    }

    pub(crate) fn once(self) -> Self {
        Self { once: true, ..self }
    }

    pub(crate) fn optional(self) -> Self {
        Self { optional: true, ..self }
    }
}

/// The content of a cell.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Cell {
    Empty,
    Text(String),
    Count(u64),
    /// A plain number.
    Number(f64),
    /// A share in percent.
    Share(f64),
    /// The same as a bar.
    Bar(f64),
    /// The ends of a share's interval.
    Ends(Interval),
    /// A share with its interval.
    Rate(Interval),
    /// A figure with its interval.
    Figure(Interval),
    /// A mean, with its interval where it has one.
    Mean(Mean),
    /// A number, in words that suit it.
    Said(String, f64),
}

impl Cell {
    pub(crate) fn text(text: impl Into<String>) -> Self {
        Self::Text(text.into())
    }

    /// Builds the cell of a value, or an empty one.
    pub(crate) fn of<T>(value: Option<T>, cell: impl FnOnce(T) -> Self) -> Self {
        value.map_or(Self::Empty, cell)
    }

    /// A knob's value.
    pub(crate) fn knob(value: &KnobValue) -> Self {
        match value.number() {
            Some(x) => Self::Said(value.to_string(), x),
            None => Self::Text(value.to_string()),
        }
    }

    fn shown(&self) -> String {
        match self {
            Self::Empty => String::new(),
            Self::Text(text) | Self::Said(text, _) => text.clone(),
            Self::Count(n) => count(*n),
            Self::Number(x) => plain(*x),
            Self::Share(share) => percent(*share),
            Self::Bar(share) => bar(*share, BAR),
            Self::Ends(interval) => ends(interval),
            Self::Rate(interval) => rate(interval),
            Self::Figure(interval) => figure(interval),
            Self::Mean(estimate) => mean(estimate),
        }
    }

    /// Returns the number by which the cell is sorted.
    fn number(&self) -> Option<f64> {
        match self {
            Self::Empty | Self::Text(_) | Self::Ends(_) => None,
            Self::Count(n) => Some(*n as f64),
            Self::Number(x) | Self::Share(x) | Self::Bar(x) | Self::Said(_, x) => Some(*x),
            Self::Rate(interval) | Self::Figure(interval) => Some(interval.value),
            Self::Mean(mean) => Some(mean.value),
        }
    }
}

/// Builds the cells of wins, draws and losses.
pub(crate) fn counts(wins: u64, draws: u64, losses: u64) -> [Cell; 3] {
    [wins, draws, losses].map(Cell::Count)
}

/// A table as data.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Table {
    caption: String,
    columns: Vec<Column>,
    rows: Vec<(String, Vec<Cell>)>,
    on: On,
    terminal_rows: usize,
    cut_says: Option<String>,
}

impl Table {
    /// A table without rows; the page shows the caption.
    pub(crate) fn new(caption: &str, columns: Vec<Column>) -> Self {
        Self {
            caption: caption.into(),
            columns,
            rows: Vec::new(),
            on: On::Both,
            terminal_rows: TERMINAL_ROWS,
            cut_says: None,
        }
    }

    /// A table of texts for the terminal.
    pub(crate) fn texts(columns: Vec<Column>, rows: Vec<Vec<String>>) -> Self {
        let mut table = Self { terminal_rows: usize::MAX, ..Self::new("", columns) };
        for row in rows {
            table.row("", row.into_iter().map(Cell::Text).collect());
        }
        table
    }

    pub(crate) fn only(self, on: On) -> Self {
        Self { on, ..self }
    }

    /// Shows this many rows in the terminal.
    pub(crate) fn at_most(self, terminal_rows: usize) -> Self {
        Self { terminal_rows, ..self }
    }

    /// Says this under the rows that the terminal shows, where it does not show all.
    pub(crate) fn cut_says(self, text: String) -> Self {
        Self { cut_says: Some(text), ..self }
    }

    /// Adds a row; the page marks rows of one key together.
    pub(crate) fn row(&mut self, key: &str, cells: Vec<Cell>) {
        self.rows.push((key.into(), cells));
    }

    /// Adds rows.
    pub(crate) fn with(mut self, rows: impl IntoIterator<Item = (String, Vec<Cell>)>) -> Self {
        self.rows.extend(rows);
        self
    }

    /// The places of the columns that are shown.
    fn places(&self, medium: On) -> Vec<usize> {
        let empty = |place: usize| self.rows.iter().all(|(_, cells)| cells[place].shown().is_empty());
        (0..self.columns.len())
            .filter(|place| self.columns[*place].on.shows(medium))
            .filter(|place| !self.columns[*place].optional || !empty(*place))
            .collect()
    }

    /// Returns the table as text for the terminal; empty without rows.
    pub(crate) fn terminal(&self, color: bool) -> String {
        if self.rows.is_empty() || !self.on.shows(On::Terminal) {
            return String::new();
        }
        let places = self.places(On::Terminal);
        let mut table = comfy_table::Table::new();
        table.load_style(TableStyle::new().header_separator(LineStyle::none().fill('─').junction('─')));
        table.set_content_arrangement(ContentArrangement::Dynamic).set_width(WIDTH).force_no_tty();
        if color {
            table.enforce_styling();
        }
        let bold = |place: &usize| comfy_table::Cell::new(&self.columns[*place].heading).add_attribute(Attribute::Bold);
        table.set_header(places.iter().map(bold));
        let shown = &self.rows[..self.rows.len().min(self.terminal_rows)];
        for (index, (key, cells)) in shown.iter().enumerate() {
            let again = index > 0 && shown[index - 1].0 == *key;
            let cell = |place: &usize| {
                let repeats = again && self.columns[*place].once && shown[index - 1].1[*place] == cells[*place];
                if repeats { String::new() } else { cells[*place].shown() }
            };
            table.add_row(places.iter().map(cell).map(comfy_table::Cell::new));
        }
        for (index, place) in places.iter().enumerate() {
            if let Some(set) = table.column_mut(index) {
                let right = self.columns[*place].figures;
                set.set_cell_alignment(if right { CellAlignment::Right } else { CellAlignment::Left });
                set.set_padding((0, 2));
            }
        }
        let text = table.trim_fmt();
        match self.rows.len() - shown.len() {
            0 => text,
            _ if self.cut_says.is_some() => format!("{text}\n{}", self.cut_says.as_deref().unwrap_or_default()),
            more => format!("{text}\n... and {more} more rows; all are in summary.json and the figures"),
        }
    }

    /// For the report page; none where there is nothing to show.
    pub(crate) fn page(&self) -> Option<PageTable> {
        if self.rows.is_empty() || !self.on.shows(On::Page) {
            return None;
        }
        let places = self.places(On::Page);
        let row = |(key, cells): &(String, Vec<Cell>)| TableRow {
            key: key.clone(),
            cells: places.iter().map(|place| page_cell(&cells[*place])).collect(),
        };
        let all = self.rows.len();
        let cut = if all > PAGE_ROWS { format!(" (the first {PAGE_ROWS} of {all})") } else { String::new() };
        Some(PageTable {
            caption: format!("{}{cut}", self.caption),
            columns: places
                .iter()
                .map(|place| (self.columns[*place].heading.clone(), self.columns[*place].figures))
                .collect(),
            rows: self.rows.iter().take(PAGE_ROWS).map(row).collect(),
        })
    }
}

/// The page sets no two spaces between a figure and its interval, so these stand as in a sentence.
fn page_cell(cell: &Cell) -> TableCell {
    let text = match cell {
        Cell::Rate(interval) => said(interval),
        Cell::Figure(interval) => said_figure(interval, ""),
        Cell::Mean(mean) => said_mean(mean),
        other => other.shown(),
    };
    match cell.number() {
        Some(number) => TableCell::number(text, number),
        None => TableCell::text(text),
    }
}

/// A table of texts as text for the terminal.
pub(crate) fn table(columns: Vec<Column>, rows: Vec<Vec<String>>, color: bool) -> String {
    Table::texts(columns, rows).terminal(color)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn birds() -> Table {
        let columns = vec![
            Column::text("Bird").once(),
            Column::text("Agent").only(On::Page),
            Column::figure("Win rate"),
            Column::text("").only(On::Terminal),
            Column::text("Budget").optional(),
        ];
        let row = |name: &str, share: f64| {
            (
                name.to_string(),
                vec![Cell::text(name), Cell::text("fencer"), Cell::Share(share), Cell::Bar(share), Cell::Empty],
            )
        };
        Table::new("Birds", columns).with([row("heron", 0.75), row("heron", 0.5), row("dunlin", 0.25)])
    }

    #[test]
    fn the_terminal_shows_its_columns_and_repeats_no_name() {
        let text = birds().terminal(false);
        let lines: Vec<&str> = text.lines().collect();
        assert!(lines[0].starts_with("Bird") && lines[0].contains("Win rate"));
        assert!(!text.contains("Agent") && !text.contains("Budget"), "{text}");
        assert!(
            lines[2].starts_with("heron") && lines[3].starts_with("  ") && lines[4].starts_with("dunlin"),
            "{text}"
        );
    }

    #[test]
    fn rows_that_are_left_out_are_told() {
        assert!(
            birds()
                .at_most(1)
                .terminal(false)
                .ends_with("... and 2 more rows; all are in summary.json and the figures")
        );
        assert_eq!(birds().at_most(3).terminal(false).lines().count(), 5);
    }

    #[test]
    fn the_page_has_every_row_with_the_number_it_sorts_by() {
        let page = birds().at_most(1).page().expect("rows");
        let headings: Vec<&str> = page.columns.iter().map(|(heading, _)| heading.as_str()).collect();
        assert_eq!(headings, ["Bird", "Agent", "Win rate"]);
        assert_eq!(page.rows.len(), 3);
        assert_eq!(page.rows[1].cells[0], TableCell::text("heron"));
        assert_eq!(page.rows[2].cells[2], TableCell::number("25.0 %", 0.25));
    }

    #[test]
    fn a_table_without_rows_is_nowhere() {
        let none = Table::new("Birds", vec![Column::text("Bird")]);
        assert!(none.terminal(false).is_empty() && none.page().is_none());
        assert!(birds().only(On::Page).terminal(false).is_empty() && birds().only(On::Terminal).page().is_none());
    }
}
