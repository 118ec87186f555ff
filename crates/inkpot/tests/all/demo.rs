//! The example, from its first study to the page that tells of it.

use crate::common::Bench;
use crate::common::browser::Browser;
use serde_json::Value;

fn percent(share: &Value) -> String {
    format!("{:.1} %", 100.0 * share.as_f64().expect("a share"))
}

fn ends(interval: &Value) -> String {
    let end = |name: &str| 100.0 * interval[name].as_f64().expect("an end");
    format!("({:.1}-{:.1})", end("low"), end("high"))
}

#[test]
fn the_demo_tells_its_story_and_the_page_agrees_with_the_summaries() {
    let bench = Bench::new();
    let ended = bench.ok("demo --quick --out shown");
    let lines: Vec<&str> = ended.lines().collect();
    assert!(lines[0].starts_with("Open shown/report.html"), "{ended}");
    assert!(lines[6].starts_with("Next: shown/found.md tells of all 17 studies") && lines[7].is_empty(), "{ended}");
    assert!(ended.contains("This was the quick demo"), "{ended}");
    assert!(lines[1].starts_with("See shown/matches.html") && bench.path("shown/matches.html").is_file(), "{ended}");
    let findings = bench.read("shown/found.md");
    for part in [
        "a newcomer takes",
        "gives guest 55 %",
        "On gentle, played by newcomer",
        "pairings are separable",
        "niches over",
    ] {
        assert!(findings.contains(part), "`{part}` is missing from\n{findings}");
    }
    for figure in [
        "how-hard/figures/rates.png",
        "skill/figures/response.svg",
        "nerves/figures/surface.png",
        "windward/figures/paths.png",
        "styles/figures/niches.svg",
        "learn/figures/learning.png",
        "moor/figures/terms.png",
    ] {
        assert!(bench.path("shown/ledger").join(figure).is_file(), "{figure}");
    }
    let summary = |study: &str| -> Value {
        serde_json::from_str(&bench.read(&format!("shown/ledger/{study}/summary.json"))).expect("JSON")
    };
    let mut said = Vec::new();
    let house = &summary("how-hard")["entrants"][1]["win_rate"];
    said.push(format!("house beats guest: {} {} of", percent(&house["value"]), ends(house)));
    let skill = &summary("skill")["solved"];
    said.push(format!("house.skill {:.3} gives", skill["value"].as_f64().expect("a value")));
    for rung in summary("ladder")["tune"]["rungs"].as_array().expect("rungs") {
        for target in rung["target"].as_array().expect("targets").iter().filter(|target| target["figure"] == "win_rate")
        {
            let measured = &target["measured"];
            let (name, verdict) = (rung["name"].as_str().unwrap(), measured["verdict"].as_str().unwrap());
            let verdict =
                if verdict == "not_separable" { "not separable yet".into() } else { verdict.replace('_', " ") };
            let agent = rung["player"][0]["agent"].as_str().unwrap();
            let rate = format!("{} {}", percent(&measured["value"]), ends(measured));
            said.push(format!("On {name}, played by {agent}: win rate {rate}, wanted"));
            said.push(verdict);
        }
    }
    let crowd = &summary("crowd")["people"][0]["hopeless"];
    said.push(format!("{} {} have a chance below 15 %", percent(&crowd["value"]), ends(crowd)));
    let best = summary("birds")["ratings"][0]["name"].as_str().unwrap().to_string();
    said.push(format!("{best} leads the field"));
    let page = bench.read("shown/report.html");
    for sentence in said {
        assert!(page.contains(&sentence), "`{sentence}` is missing from the page");
    }

    let Some(browser) = Browser::open(&bench, 1280, false) else { return };
    browser.go(&format!("file://{}", bench.path("shown/report.html").display()));
    assert_eq!(browser.run("return document.title"), "17 studies of berths, piste, regatta, sowing");
    let folded = browser.run("return [...document.querySelectorAll('details.folded')].map(own => own.open)");
    assert_eq!(folded, serde_json::json!(vec![false; 17]));
    let figures = browser.run("return document.querySelectorAll('figure svg').length");
    assert!(figures.as_u64().is_some_and(|figures| figures > 10), "{figures}");
    browser.assert_quiet();
}
