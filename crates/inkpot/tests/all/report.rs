//! The report page, opened and clicked in a real browser where there is one.

use crate::common::Bench;
use crate::common::browser::Browser;
use serde_json::{Value, json};

fn studies(bench: &Bench) {
    bench.ok("sweep piste --entrant guest=newcomer --against house=fencer --vary house.skill=0..1/5 --target 0.5 --matches 60 --seed 3 --name skill --quiet");
    bench.ok("batch piste heron turnstone godwit --matches 60 --seed 3 --name birds --quiet");
    bench.ok("batch piste heron avocet --matches 60 --seed 3 --name pair --quiet");
}

#[test]
fn the_page_stands_alone_and_says_what_the_summaries_say() {
    let bench = Bench::new();
    studies(&bench);
    bench.ok("report skill birds pair --out page.html");
    let page = bench.read("page.html");
    for outside in ["http://", "https://", "src=\"/", "@import"] {
        let found =
            page.match_indices(outside).filter(|(at, _)| !page[*at..].starts_with("http://www.w3.org/2000/svg"));
        assert_eq!(found.count(), 0, "the page refers to {outside}");
    }
    for study in ["skill", "birds", "pair"] {
        let summary: Value = serde_json::from_str(&bench.read(&format!("ledger/{study}/summary.json"))).expect("JSON");
        for note in summary["notes"].as_array().expect("notes") {
            let text = note.as_str().expect("a note").replace('<', "&lt;").replace('\'', "&#x27;");
            assert!(page.contains(&text), "the note is missing: {text}");
        }
        for entrant in summary["entrants"].as_array().expect("entrants") {
            let Some(rate) = entrant["win_rate"]["value"].as_f64() else { continue };
            let text = format!("{:.1} %", 100.0 * rate);
            assert!(study == "skill" || page.contains(&text), "{study}: {text} is missing");
        }
        if let Some(value) = summary["solved"]["value"].as_f64() {
            assert!(page.contains(&format!("skill {value:.3}")), "the solved value is missing");
        }
    }
    assert_eq!(bench.ok("report skill birds pair --out again.html").replace("again", "page"), "page.html\n");
    assert_eq!(page, bench.read("again.html"), "the same studies give the same page");
}

#[test]
fn a_browser_opens_sorts_picks_and_asks_nobody() {
    let bench = Bench::new();
    let Some(browser) = Browser::open(&bench, 1280, false) else { return };
    studies(&bench);
    bench.ok("report skill birds pair --out page.html");
    browser.go(&format!("file://{}", bench.path("page.html").display()));
    assert_eq!(browser.run("return document.title"), "3 studies of piste: skill, birds, pair");
    // What is drawn of one study is folded under it.
    let unfold = "const all = [...document.querySelectorAll('details.folded')]; const open = all.map(own => own.open); \
                  all.forEach(own => { own.open = true; }); return open";
    assert_eq!(browser.run(unfold), serde_json::json!([false, false, false]));
    // Sorting: a click on a heading orders its column, a second one turns it over.
    let column = "const t = [...document.querySelectorAll('#birds table')][0]; \
                  const read = () => [...t.tBodies[0].rows].map(r => Number(r.cells[2].dataset.sort));";
    let click = "t.tHead.rows[0].cells[2].querySelector('button').click();";
    let down: Vec<f64> =
        serde_json::from_value(browser.run(&format!("{column}{click} return read()"))).expect("numbers");
    assert!(down.len() == 3 && down.is_sorted_by(|a, b| a >= b), "{down:?}");
    let up: Vec<f64> = serde_json::from_value(browser.run(&format!("{column}{click} return read()"))).expect("numbers");
    assert!(up.is_sorted(), "{up:?}");
    // Picking: a row of a table marks what is about the same entrant in the figures, and nothing else.
    let picked = "document.querySelector('#birds tbody tr[data-key=heron]').click(); \
                  return [...document.querySelectorAll('#birds .spot.picked')].map(s => s.dataset.key)";
    let picked: Vec<String> = serde_json::from_value(browser.run(picked)).expect("keys");
    assert!(!picked.is_empty() && picked.iter().all(|key| key == "heron"), "{picked:?}");
    // Pointing: a place tells its figure.
    let shown = browser.run(
        "const s = document.querySelector('#skill .spot'); \
         s.dispatchEvent(new PointerEvent('pointermove', { bubbles: true, clientX: 9, clientY: 9 })); \
         const t = document.getElementById('tip'); return t.hidden ? '' : t.textContent",
    );
    assert!(shown.as_str().is_some_and(|text| text.starts_with("house.skill 0")), "{shown}");
    let font = browser.run("return document.fonts.check('16px \"Inkpot Sans\"')");
    assert_eq!(font, true, "the font of the page is its own");
    browser.assert_quiet();
}

#[test]
fn a_narrow_dark_window_is_not_wider_than_itself() {
    let bench = Bench::new();
    let Some(browser) = Browser::open(&bench, 420, true) else { return };
    bench.ok("batch piste heron avocet --matches 60 --seed 3 --name pair --quiet");
    bench.ok("report pair --out page.html");
    browser.go(&format!("file://{}", bench.path("page.html").display()));
    let over = browser.run("return document.documentElement.scrollWidth - document.documentElement.clientWidth");
    assert!(over.as_f64().is_some_and(|pixels| pixels <= 0.0), "the page is {over} pixels too wide");
    let ground = browser.run("return [matchMedia('(prefers-color-scheme: dark)').matches, getComputedStyle(document.documentElement).backgroundColor]");
    assert_eq!(ground, json!([true, "rgb(18, 18, 18)"]));
}
