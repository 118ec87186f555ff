//! The report page, opened and clicked in a real browser where there is one.

mod common;

use std::process::{Child, Command, Stdio};
use std::time::Duration;

use common::Bench;
use serde_json::{Value, json};

/// A browser that is driven over the `WebDriver` protocol.
struct Browser {
    driver: Child,
    session: String,
}

impl Browser {
    /// Starts one; none where the driver cannot be had.
    fn open(bench: &Bench, width: u32, dark: bool) -> Option<Self> {
        let port = std::net::TcpListener::bind("127.0.0.1:0").ok()?.local_addr().ok()?.port();
        let driver = Command::new("chromedriver")
            .arg(format!("--port={port}"))
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .spawn()
            .ok()?;
        let base = format!("http://127.0.0.1:{port}");
        let profile = bench.path(&format!("profile-{port}"));
        let mut arguments = vec![
            "--headless".to_string(),
            "--no-sandbox".into(),
            "--disable-gpu".into(),
            "--disable-quic".into(),
            "--no-first-run".into(),
            "--disable-background-networking".into(),
            "--disable-component-update".into(),
            "--disable-sync".into(),
            format!("--window-size={width},900"),
            format!("--user-data-dir={}", profile.display()),
        ];
        if dark {
            arguments.push("--blink-settings=preferredColorScheme=0".into());
        }
        let wanted = json!({ "capabilities": { "alwaysMatch": {
            "goog:chromeOptions": { "args": arguments },
            "goog:loggingPrefs": { "browser": "ALL", "performance": "ALL" },
        } } });
        let begun = (0..40).find_map(|_| {
            std::thread::park_timeout(Duration::from_millis(250));
            post(&format!("{base}/session"), &wanted)
        });
        let mut browser = Self { driver, session: String::new() };
        let id = begun?["value"]["sessionId"].as_str()?.to_string();
        browser.session = format!("{base}/session/{id}");
        Some(browser)
    }

    fn go(&self, url: &str) {
        post(&format!("{}/url", self.session), &json!({ "url": url })).expect("the page opens");
    }

    /// What a script gives.
    fn run(&self, script: &str) -> Value {
        let told = post(&format!("{}/execute/sync", self.session), &json!({ "script": script, "args": [] }));
        told.expect("the script runs")["value"].clone()
    }

    fn log(&self, kind: &str) -> Vec<Value> {
        let told = post(&format!("{}/se/log", self.session), &json!({ "type": kind })).expect("the log is there");
        told["value"].as_array().cloned().unwrap_or_default()
    }
}

impl Drop for Browser {
    fn drop(&mut self) {
        let _ = ureq::delete(&self.session).call();
        let _ = self.driver.kill();
        let _ = self.driver.wait();
    }
}

fn post(url: &str, body: &Value) -> Option<Value> {
    let mut answer = ureq::post(url).header("content-type", "application/json").send(body.to_string()).ok()?;
    serde_json::from_str(&answer.body_mut().read_to_string().ok()?).ok()
}

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
    let Some(browser) = Browser::open(&bench, 1280, false) else {
        eprintln!("skipped: no browser with a driver is installed (chromium, chromedriver)");
        return;
    };
    studies(&bench);
    bench.ok("report skill birds pair --out page.html");
    browser.go(&format!("file://{}", bench.path("page.html").display()));
    assert_eq!(browser.run("return document.title"), "3 studies: piste");
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
    let told = browser.run(
        "const s = document.querySelector('#skill .spot'); \
         s.dispatchEvent(new PointerEvent('pointermove', { bubbles: true, clientX: 9, clientY: 9 })); \
         const t = document.getElementById('tip'); return t.hidden ? '' : t.textContent",
    );
    assert!(told.as_str().is_some_and(|text| text.starts_with("house.skill 0")), "{told}");
    let font = browser.run("return document.fonts.check('16px \"Inkpot Sans\"')");
    assert_eq!(font, true, "the font of the page is its own");
    let errors: Vec<Value> = browser.log("browser").into_iter().filter(|line| line["level"] == "SEVERE").collect();
    assert!(errors.is_empty(), "{errors:?}");
    let asked: Vec<String> = browser
        .log("performance")
        .iter()
        .filter_map(|line| serde_json::from_str::<Value>(line["message"].as_str()?).ok())
        .filter(|event| event["message"]["method"] == "Network.requestWillBeSent")
        // The browser shows a page of its own before ours.
        .filter(|event| {
            event["message"]["params"]["documentURL"].as_str().is_some_and(|url| url.starts_with("file://"))
        })
        .filter_map(|event| event["message"]["params"]["request"]["url"].as_str().map(String::from))
        .filter(|url| !url.starts_with("file://") && !url.starts_with("data:"))
        .collect();
    assert!(asked.is_empty(), "the page asked for {asked:?}");
}

#[test]
fn a_narrow_dark_window_is_not_wider_than_itself() {
    let bench = Bench::new();
    let Some(browser) = Browser::open(&bench, 420, true) else {
        eprintln!("skipped: no browser with a driver is installed (chromium, chromedriver)");
        return;
    };
    bench.ok("batch piste heron avocet --matches 60 --seed 3 --name pair --quiet");
    bench.ok("report pair --out page.html");
    browser.go(&format!("file://{}", bench.path("page.html").display()));
    let over = browser.run("return document.documentElement.scrollWidth - document.documentElement.clientWidth");
    assert!(over.as_f64().is_some_and(|pixels| pixels <= 0.0), "the page is {over} pixels too wide");
    let ground = browser.run("return [matchMedia('(prefers-color-scheme: dark)').matches, getComputedStyle(document.documentElement).backgroundColor]");
    assert_eq!(ground, json!([true, "rgb(18, 18, 18)"]));
}
