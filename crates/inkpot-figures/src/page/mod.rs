//! The report page: one HTML file that needs nothing beside itself. Plain data in, text out.
//!
//! Everything is readable without the script; it adds what can be pointed at, picked and sorted.
//! In dark mode, CSS inverts the lightness of figures.

use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use minijinja::{AutoEscape, Environment, HtmlEscape, Value, context};
use serde::Serialize;

use crate::Drawing;

const TEMPLATE: &str = include_str!("page.html");
const STYLE: &str = include_str!("style.css");
const SCRIPT: &str = include_str!("script.js");
const PLAIN: &[u8] = include_bytes!("../../fonts/inkpot-sans-400.woff2");
const BOLD: &[u8] = include_bytes!("../../fonts/inkpot-sans-600.woff2");

/// A page.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Page {
    /// Its title.
    pub title: String,
    /// A line under it.
    pub subtitle: String,
    /// The program that made it.
    pub made_by: String,
    /// Its sections, in order.
    pub sections: Vec<Section>,
}

/// A section: one study, or a comparison of several.
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
pub struct Section {
    /// Its name, for links; letters, digits and dashes.
    pub id: String,
    /// Its title.
    pub title: String,
    /// Caveats to know before the figures are believed.
    pub warnings: Vec<String>,
    /// The summary line that its figures and tables are folded under, where they are.
    pub folded: Option<String>,
    /// The questions, as name and value.
    pub asked: Vec<(String, String)>,
    /// The findings, in sentences.
    pub found: Vec<String>,
    /// Figures.
    pub figures: Vec<Figure>,
    /// Tables.
    pub tables: Vec<PageTable>,
    /// The method, in sentences.
    pub method: Vec<String>,
    /// Texts to look up: heading and text as it stands.
    pub sources: Vec<(String, String)>,
}

/// A figure on a page.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Figure {
    /// The description, for screen readers.
    pub label: String,
    svg: String,
}

impl Figure {
    /// A drawing on a page, with its places that tell something.
    pub fn new(label: &str, drawing: &Drawing) -> Self {
        Self { label: label.into(), svg: inline(label, drawing) }
    }
}

/// A table that sorts.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct PageTable {
    /// The caption.
    pub caption: String,
    /// Headings, and whether their column holds figures.
    pub columns: Vec<(String, bool)>,
    /// Rows.
    pub rows: Vec<TableRow>,
}

/// A row of a table.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct TableRow {
    /// Whom it is about; the same key stands in the figures.
    pub key: String,
    /// Cells.
    pub cells: Vec<TableCell>,
}

/// A cell.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct TableCell {
    /// The text.
    pub text: String,
    /// The number that it sorts by, where there is one.
    pub number: Option<f64>,
}

impl TableCell {
    /// A cell of text.
    pub fn text(text: impl Into<String>) -> Self {
        Self { text: text.into(), number: None }
    }

    /// A cell that sorts by a number.
    pub fn number(text: impl Into<String>, number: f64) -> Self {
        Self { text: text.into(), number: number.is_finite().then_some(number) }
    }
}

impl Page {
    /// The page as HTML. Errs only when the template does not fit the data.
    pub fn html(&self) -> Result<String, String> {
        let page = context! {
            page => self,
            style => Value::from_safe_string(fonts() + STYLE),
            script => Value::from_safe_string(SCRIPT.to_string()),
        };
        rendered(TEMPLATE, page)
    }
}

/// The style that brings the fonts of a page with it.
pub(crate) fn fonts() -> String {
    let font = |bytes: &[u8], weight: u32| {
        let data = STANDARD.encode(bytes);
        format!(
            "@font-face{{font-family:\"Inkpot Sans\";font-weight:{weight};src:url(data:font/woff2;base64,{data}) format(\"woff2\")}}\n"
        )
    };
    font(PLAIN, 400) + &font(BOLD, 600)
}

/// A template with its data filled in.
pub(crate) fn rendered(template: &str, data: Value) -> Result<String, String> {
    let mut environment = Environment::new();
    environment.set_auto_escape_callback(|_| AutoEscape::Html);
    environment.add_filter("words", words);
    environment.set_trim_blocks(true);
    environment.set_lstrip_blocks(true);
    environment.add_template("page", template).map_err(|error| error.to_string())?;
    let template = environment.get_template("page").map_err(|error| error.to_string())?;
    template.render(data).map_err(|error| format!("{error:#}"))
}

/// Splits a text so that parts in backticks are set as code.
fn words(text: &str) -> Value {
    let mut html = String::new();
    for (place, part) in text.split('`').enumerate() {
        let part = HtmlEscape(part);
        // A backtick without another is one.
        let closes = place % 2 == 1 && text.matches('`').count() > place;
        let part = match (place % 2, closes) {
            (1, true) => format!("<code>{part}</code>"),
            (1, false) => format!("`{part}"),
            _ => part.to_string(),
        };
        html.push_str(&part);
    }
    Value::from_safe_string(html)
}

/// A drawing as an element of a page: it takes the width it is given, and its spots lie over it.
fn inline(label: &str, drawing: &Drawing) -> String {
    /// The drawing's own units, against those of its spots.
    const FINE: f64 = 10.0;
    let svg = drawing.svg();
    let open = svg.find("<svg").unwrap_or(0);
    let view = svg.find("viewBox=\"").map_or("", |at| svg[at..].split('"').nth(1).unwrap_or(""));
    let body_start = svg[open..].find('>').map_or(svg.len(), |end| open + end + 1);
    let body = svg[body_start..].trim_end().trim_end_matches("</svg>");
    let label = escaped(label);
    let mut spots = String::new();
    for spot in drawing.spots() {
        let [x, y, w, h] = [spot.left, spot.top, spot.width, spot.height].map(|length| (length * FINE).round());
        let (key, text) = (escaped(&spot.key), escaped(&spot.text));
        let place = format!("x=\"{x}\" y=\"{y}\" width=\"{w}\" height=\"{h}\"");
        spots.extend(["<rect class=\"spot\" ", &place, " data-key=\"", &key, "\"><title>", &text, "</title></rect>"]);
    }
    format!("<svg viewBox=\"{view}\" role=\"img\" aria-label=\"{label}\">{body}{spots}</svg>")
}

fn escaped(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;").replace('"', "&quot;")
}
