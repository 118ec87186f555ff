//! The report page: what is in it, in which order, and that it needs nothing beside itself.

use inkpot_figures::{Estimate, Page, PageFigure, PageTable, Rates, RatesRow, Section, TableCell, TableRow, Words};

const AWKWARD: &str = "a <b> & \"c\" 'd'";

fn drawn(name: &str) -> PageFigure {
    let words = Words { title: "Heron leads".into(), subtitle: "Win rate".into(), caption: "Intervals.".into() };
    let rate = Estimate { value: 0.7, low: 0.6, high: 0.8 };
    let rows = vec![RatesRow { name: name.into(), rate, record: [7, 0, 3] }];
    PageFigure::new(&format!("rates of {name}"), &Rates { words, rows }.draw())
}

fn table(name: &str) -> PageTable {
    PageTable {
        caption: "Entrants".into(),
        columns: vec![("Entrant".into(), false), ("Win rate".into(), true)],
        rows: vec![
            TableRow { key: name.into(), cells: vec![TableCell::text(name), TableCell::number("70.0 %", 0.7)] },
            TableRow { key: "none".into(), cells: vec![TableCell::text("none"), TableCell::number("", f64::NAN)] },
        ],
    }
}

fn section(id: &str, name: &str) -> Section {
    Section {
        id: id.into(),
        title: id.into(),
        folded: None,
        warnings: vec![format!("only few blocks of {name}")],
        asked: vec![("Game".into(), name.into())],
        found: vec![format!("{name} leads.")],
        figures: vec![drawn(name)],
        tables: vec![table(name)],
        method: vec!["Intervals are 95 %.".into()],
        sources: vec![("The brief".into(), format!("name = {name}"))],
    }
}

fn page(sections: Vec<Section>) -> String {
    let page = Page {
        title: "What the birds did".into(),
        subtitle: "100 matches".into(),
        made_by: "Made by inkpot.".into(),
        sections,
    };
    page.html().expect("the template fits the data")
}

#[test]
fn a_section_opens_with_figure_and_table_then_says_what_was_found_and_with_which_caveats() {
    let html = page(vec![section("birds", "heron")]);
    let parts = [
        "<h1>What the birds did</h1>",
        "100 matches",
        "<h2>birds</h2>",
        "aria-label=\"rates of heron\"",
        "<caption>Entrants</caption>",
        "<p>heron leads.</p>",
        "only few blocks of heron",
        "<dt>Game</dt><dd>heron</dd>",
        "Intervals are 95 %.",
        "name = heron",
        "Made by inkpot.",
    ];
    let places: Vec<usize> =
        parts.iter().map(|part| html.find(part).unwrap_or_else(|| panic!("{part} is missing"))).collect();
    assert!(places.is_sorted(), "{places:?}");
}

#[test]
fn words_in_backticks_are_set_as_code() {
    let found = vec!["turn `skill` & `a<b>` up".to_string(), "a lone ` stays".into()];
    let html = page(vec![Section { found, ..section("birds", "heron") }]);
    assert!(html.contains("<p>turn <code>skill</code> &amp; <code>a&lt;b&gt;</code> up</p>"), "{html}");
    assert!(html.contains("<p>a lone ` stays</p>"));
}

#[test]
fn several_sections_are_linked_and_one_is_not() {
    let html = page(vec![section("birds", "heron"), section("skill", "godwit")]);
    for id in ["birds", "skill"] {
        assert!(html.contains(&format!("<a href=\"#{id}\">{id}</a>")), "{id}");
        assert_eq!(html.matches(&format!("<section id=\"{id}\">")).count(), 1);
    }
    assert!(!page(vec![section("birds", "heron")]).contains("<nav"));
}

#[test]
fn awkward_names_stay_text() {
    let html = page(vec![section("birds", AWKWARD)]);
    assert!(!html.contains("<b>"), "no name becomes markup");
    let escaped = html.matches("a &lt;b&gt; &amp; ").count();
    assert!(escaped >= 8, "{escaped}: in words, figure, its places, table, key and source");
}

#[test]
fn a_page_fetches_nothing() {
    let html = page(vec![section("birds", "heron"), section("skill", "godwit")]);
    let body = html.replace("http://www.w3.org/2000/svg", "");
    for outside in ["http:", "https:", "//cdn", "<link rel=\"stylesheet\"", "@import", "<script src", "<img"] {
        assert!(!body.contains(outside), "{outside}");
    }
    assert!(html.contains("default-src 'none'"), "and says so to the browser");
}

#[test]
fn rows_and_places_of_figures_share_a_key_and_numbers_sort() {
    let html = page(vec![section("birds", "heron")]);
    assert!(html.contains("<tr data-key=\"heron\">"));
    assert!(html.contains("class=\"spot\"") && html.matches("data-key=\"heron\"").count() >= 2);
    assert!(html.contains("data-sort=\"0.7\">70.0 %</td>"));
    assert!(html.contains("<td class=\"figure\"></td>"), "what is no number sorts by nothing");
    assert!(html.contains("<title>heron: 70.0 %"), "what is pointed at tells its figures without the script too");
}

#[test]
fn an_empty_section_leaves_no_empty_headings() {
    let bare = Section { id: "bare".into(), title: "bare".into(), ..Section::default() };
    let html = page(vec![bare]);
    for heading in ["Know this first", "What was asked", "How it was done", "<table>", "<figure>"] {
        assert!(!html.contains(heading), "{heading}");
    }
    assert!(page(Vec::new()).contains("<h1>What the birds did</h1>"));
}

#[test]
fn the_same_data_give_the_same_page() {
    let sections = || vec![section("birds", "heron"), section("skill", AWKWARD)];
    assert_eq!(page(sections()), page(sections()));
}
