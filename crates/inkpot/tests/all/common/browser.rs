//! A real browser, where one with a driver is installed.

use std::process::{Child, Command, Stdio};
use std::time::Duration;

use serde_json::{Value, json};

use super::Bench;

/// A browser that is driven over the `WebDriver` protocol.
pub(crate) struct Browser {
    driver: Child,
    session: String,
}

impl Browser {
    /// Starts one; none, and a word of it, where it cannot be had.
    ///
    /// # Panics
    /// Where `CI` is set: there it has to be had.
    pub(crate) fn open(bench: &Bench, width: u32, dark: bool) -> Option<Self> {
        let browser = Self::start(bench, width, dark);
        if browser.is_none() {
            assert!(
                std::env::var_os("CI").is_none(),
                "no browser with a driver could be started (chromium, chromedriver)"
            );
            eprintln!("skipped: no browser with a driver is installed (chromium, chromedriver)");
        }
        browser
    }

    fn start(bench: &Bench, width: u32, dark: bool) -> Option<Self> {
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

    pub(crate) fn go(&self, url: &str) {
        post(&format!("{}/url", self.session), &json!({ "url": url })).expect("the page opens");
    }

    /// What a script gives.
    pub(crate) fn run(&self, script: &str) -> Value {
        let answer = post(&format!("{}/execute/sync", self.session), &json!({ "script": script, "args": [] }));
        answer.expect("the script runs")["value"].clone()
    }

    /// Presses keys one after the other, on whatever has the focus.
    pub(crate) fn press(&self, keys: &[&str]) {
        let press = |key: &&str| [json!({ "type": "keyDown", "value": key }), json!({ "type": "keyUp", "value": key })];
        let actions: Vec<Value> = keys.iter().flat_map(press).collect();
        let all = json!({ "actions": [{ "type": "key", "id": "keys", "actions": actions }] });
        post(&format!("{}/actions", self.session), &all).expect("the keys are pressed");
    }

    /// Waits until a script gives true.
    pub(crate) fn until(&self, script: &str) {
        let holds = (0..200).any(|_| {
            let holds = self.run(script) == true;
            if !holds {
                std::thread::park_timeout(Duration::from_millis(50));
            }
            holds
        });
        assert!(holds, "it never holds: {script}");
    }

    fn log(&self, kind: &str) -> Vec<Value> {
        let log = post(&format!("{}/se/log", self.session), &json!({ "type": kind })).expect("the log is there");
        log["value"].as_array().cloned().unwrap_or_default()
    }

    /// Fails if the page wrote an error to the console, or asked anybody for anything.
    pub(crate) fn assert_quiet(&self) {
        let errors: Vec<Value> = self.log("browser").into_iter().filter(|line| line["level"] == "SEVERE").collect();
        assert!(errors.is_empty(), "{errors:?}");
        let requests: Vec<String> = self
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
        assert!(requests.is_empty(), "the page asked for {requests:?}");
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
