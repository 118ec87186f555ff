//! Matches as pages to step through: what their data says, and how they are operated in a real browser.

use std::io::Read;

use crate::common::Bench;
use crate::common::browser::Browser;
use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use flate2::read::ZlibDecoder;
use inkpot_core::{HeldMatch, Shape, Spot};
use inkpot_lab::{Draft, EntrantDraft, resolve};
use serde_json::{Value, json};

/// What a page holds of each of its matches.
fn films(page: &str) -> Vec<Value> {
    let packed = page.split("class=\"data\">").skip(1).map(|rest| rest.split('<').next().expect("it ends"));
    let unpacked = packed.map(|text| {
        let bytes = STANDARD.decode(text).expect("base64");
        let mut json = String::new();
        ZlibDecoder::new(bytes.as_slice()).read_to_string(&mut json).expect("deflated text");
        serde_json::from_str(&json).expect("JSON")
    });
    unpacked.collect()
}

/// The numbers of a picture of a reel, with the texts that it refers to.
fn picture(reel: &Value, index: usize) -> (Vec<f64>, Vec<String>) {
    let step = reel["step"].as_f64().expect("a step");
    let mut from = 0;
    for run in reel["runs"].as_array().expect("runs") {
        let count = run["count"].as_u64().expect("a count") as usize;
        if index < from + count {
            let raw = |column: &Value| match column.as_array() {
                None => column.as_i64().expect("a number"),
                Some(steps) => steps.iter().take(index - from + 1).map(|step| step.as_i64().expect("a number")).sum(),
            };
            let raw: Vec<i64> = run["columns"].as_array().expect("columns").iter().map(raw).collect();
            return read(run["kinds"].as_str().expect("kinds"), &raw, step, reel);
        }
        from += count;
    }
    panic!("there is no picture {index}");
}

/// Numbers of shapes without their paints; texts apart.
fn read(kinds: &str, raw: &[i64], step: f64, reel: &Value) -> (Vec<f64>, Vec<String>) {
    let (mut numbers, mut texts, mut at) = (Vec::new(), Vec::new(), 4);
    let mut kinds = kinds.chars();
    while let Some(kind) = kinds.next() {
        let lengths = match kind {
            'l' => 5,
            'r' => 4,
            'c' | 'o' | 't' => 3,
            'a' => {
                2 * kinds
                    .by_ref()
                    .take_while(|letter| *letter != '.')
                    .collect::<String>()
                    .parse::<usize>()
                    .expect("corners")
            }
            other => panic!("{other}"),
        };
        numbers.extend(raw[at..at + lengths].iter().map(|byte| *byte as f64 * step));
        at += lengths;
        if kind == 't' {
            texts.push(reel["texts"][raw[at] as usize].as_str().expect("a text").to_string());
            at += 1;
        }
        at += 1;
    }
    (numbers, texts)
}

/// The same match, to be stepped here.
fn stepped(game: &str, agents: [&str; 2], level: Option<&str>, seed: u64) -> Box<dyn HeldMatch> {
    let registry = inkpot_games::registry();
    let entrants = agents.map(|agent| EntrantDraft { agent: agent.into(), ..EntrantDraft::default() }).to_vec();
    let level = level.map(|name| inkpot_core::Level::named(name, inkpot_core::Knobs::default()));
    let draft = Draft { game: game.into(), level, seed: Some(seed), entrants, ..Draft::default() };
    let mut plan = resolve(&draft.into(), &registry).expect("a sound draft");
    plan.cells.truncate(1);
    plan.cells[0].entrants = vec![0, 1];
    let setting = plan.setting(&plan.cells[0]);
    registry.game(game).expect("a game").stage(&setting).expect("a stage").open(Spot::default())
}

#[test]
fn the_scene_at_every_tick_is_the_state() {
    let bench = Bench::new();
    for (game, agents, level) in [
        ("piste", ["heron", "turnstone"], None),
        ("sowing", ["grabber", "drifter"], None),
        ("regatta", ["tacker", "beeline"], Some("triangle")),
        ("berths", ["harbourmaster", "drifter"], None),
    ] {
        let on = level.map(|level| format!(" --level {level}")).unwrap_or_default();
        bench.ok(&format!("replay {game} {} {} --seed 5 --out page.html{on}", agents[0], agents[1]));
        let film = films(&bench.read("page.html")).remove(0);
        let step = film["scene"]["step"].as_f64().expect("a step");
        let mut held = stepped(game, agents, level, 5);
        let ticks: Vec<u64> =
            film["ticks"].as_array().expect("ticks").iter().map(|tick| tick.as_u64().unwrap()).collect();
        assert!(ticks.iter().skip(1).all(|apart| *apart == 1), "{game}: no tick is left out");
        for index in 0..ticks.len() {
            let scene = held.scene().expect("a scene");
            let (numbers, texts) = picture(&film["scene"], index);
            let drawn: Vec<f64> = scene.shapes.iter().flat_map(Shape::numbers).collect();
            assert_eq!(numbers.len(), drawn.len(), "{game} at {index}");
            let off = numbers.iter().zip(&drawn).map(|(a, b)| (a - b).abs()).fold(0.0, f64::max);
            assert!(off <= 0.5001 * step, "{game} at {index}: {off} of {step}");
            let lettering: Vec<&str> = scene
                .shapes
                .iter()
                .filter_map(|shape| if let Shape::Text { text, .. } = shape { Some(text.as_str()) } else { None })
                .collect();
            assert_eq!(texts, lettering, "{game} at {index}");
            assert_eq!(held.pending().is_empty(), index + 1 == ticks.len(), "{game} at {index}");
            if let Some(note) = held.note() {
                assert_eq!(
                    film["positions"]["all"][film["positions"]["at"][index][1].as_u64().unwrap() as usize],
                    note,
                    "{game}"
                );
            }
            held.turn();
        }
        let scores = film["scores"].as_array().expect("scores").last().expect("one")[1].clone();
        assert_eq!(scores, json!(held.scores()), "{game}");
    }
}

#[test]
fn a_page_stands_alone_and_is_the_same_each_time() {
    let bench = Bench::new();
    bench.ok("batch piste heron avocet --matches 20 --seed 3 --name pair --quiet");
    assert_eq!(bench.ok("replay pair/3"), "ledger/pair/replays/3.html\n");
    let page = bench.read("ledger/pair/replays/3.html");
    for outside in ["http://", "https://", "src=\"", "@import"] {
        assert_eq!(page.matches(outside).count(), 0, "the page refers to {outside}");
    }
    bench.ok("replay pair/3 --out again.html --threads 1");
    assert_eq!(page, bench.read("again.html"));
    let replayed = bench.json("match --again pair/3");
    let film = films(&page).remove(0);
    let last = replayed["scores"].as_array().expect("scores").last().expect("one").clone();
    assert_eq!(
        film["scores"].as_array().expect("scores").last(),
        Some(&json!([last["tick"], last["scores"], last["by"]]))
    );
    assert!(
        page.contains("inkpot match --again pair/3") || film["about"]["facts"].to_string().contains("--again pair/3")
    );
}

#[test]
fn a_study_shows_its_extremes_by_a_measure_side_by_side() {
    let bench = Bench::new();
    bench.ok("batch piste heron avocet --matches 40 --seed 3 --name pair --quiet");
    let replayed = bench.json("replay pair --by longest_lull_s");
    assert_eq!(replayed["matches"], 3);
    let extremes = bench.json("ledger show pair --by longest_lull_s --most 1");
    let page = bench.read(replayed["file"].as_str().expect("a file"));
    let titles: Vec<String> =
        films(&page).iter().map(|film| film["about"]["title"].as_str().expect("a title").to_string()).collect();
    for (place, end) in [(0, "lowest"), (2, "highest")] {
        let number = extremes[end][0]["match"].as_u64().expect("a number");
        assert!(titles[place].starts_with(&format!("pair/{number}: ")), "{titles:?}");
        assert!(
            titles[place].contains("; longest lull ") && titles[place].ends_with(&format!(", the {end}")),
            "{titles:?}"
        );
    }
}

#[test]
fn what_cannot_be_replayed_is_refused() {
    let bench = Bench::new();
    bench.ok("batch piste heron avocet --matches 20 --seed 3 --name pair --quiet");
    bench.ok("batch sowing drifter grabber --matches 20 --seed 3 --name seeds --quiet");
    for (name, arguments) in [
        ("no_study", "replay nowhere/3"),
        ("no_match", "replay pair/20"),
        ("no_measure", "replay pair --by lull"),
        ("two_studies", "replay pair seeds --by longest_lull_s"),
        ("two_games", "replay pair/0 seeds/0"),
        ("seed_of_a_stored_match", "replay pair/0 --seed 4"),
        ("too_many_seats", "replay piste heron avocet dunlin"),
        ("no_level_to_draw", "games piste --scene stills --level pond"),
    ] {
        insta::assert_snapshot!(name, bench.console(arguments));
    }
}

#[test]
fn stills_of_every_level_are_drawn() {
    let bench = Bench::new();
    for game in ["piste", "sowing", "regatta", "berths"] {
        let files = bench.json(&format!("games {game} --scene stills"))["files"].clone();
        let levels = bench.json(&format!("games {game}"))["levels"].as_array().expect("levels").len();
        assert_eq!(files.as_array().expect("files").len(), 2 * levels, "{game}");
        for file in files.as_array().expect("files") {
            let path = bench.path(file.as_str().expect("a path"));
            let bytes = std::fs::read(&path).expect("it is there");
            if path.extension().is_some_and(|ending| ending == "svg") {
                let text = String::from_utf8(bytes).expect("text");
                assert!(roxmltree::Document::parse(&text).is_ok(), "{}", path.display());
            } else {
                assert!(bytes.starts_with(b"\x89PNG"), "{}", path.display());
            }
        }
    }
}

/// The tick that is shown, and the scores so far.
fn shown(browser: &Browser) -> (u64, u64) {
    let at =
        browser.run("const f = document.querySelector('.film').dataset; return [Number(f.tick), Number(f.scored)]");
    (at[0].as_u64().expect("a tick"), at[1].as_u64().expect("a count"))
}

#[test]
fn by_keyboard_one_gets_to_the_third_score_ten_decisions_back_and_sees_what_a_seat_perceives() {
    let bench = Bench::new();
    let Some(browser) = Browser::open(&bench, 1280, false) else { return };
    for (game, rest) in [
        ("piste", "heron turnstone --seed 7"),
        ("sowing", "minimax treesearch --seed 7"),
        ("regatta", "tacker beeline --level harbour --seed 3"),
    ] {
        bench.ok(&format!("replay {game} {rest} --out page.html"));
        let film = films(&bench.read("page.html")).remove(0);
        browser.go(&format!("file://{}", bench.path("page.html").display()));
        browser.until("return document.body.dataset.opened !== undefined");
        browser.press(&["n", "n", "n"]);
        let third = film["scores"][3][0].as_u64().expect("a third score");
        assert_eq!(shown(&browser), (third, 3), "{game}");
        browser.press(&["["; 10]);
        let mut decisions: Vec<u64> = (0..2).flat_map(|seat| ticks(&film["seats"][seat]["choices"]["at"])).collect();
        decisions.sort_unstable();
        decisions.dedup();
        let before: Vec<u64> = decisions.into_iter().filter(|tick| *tick < third).collect();
        let tenth = before.len().checked_sub(10).map_or(0, |place| before[place]);
        assert_eq!(shown(&browser).0, tenth, "{game}");
        let drawn = "return document.querySelector('.scene').toDataURL()";
        let without = browser.run(drawn);
        browser.press(&["1"]);
        assert_eq!(browser.run("return document.querySelector('.seat input').checked"), true, "{game}");
        let with = browser.run(drawn);
        // Whoever is not to move in a game of turns perceives nothing that could be drawn.
        let mark = picture(&film["seats"][0]["sight"], tenth as usize).0.is_empty();
        assert_eq!(with == without, mark, "{game}");
        browser.press(&[" "]);
        browser.until(&format!("return Number(document.querySelector('.film').dataset.tick) > {tenth}"));
        browser.press(&[" "]);
        assert_eq!(browser.run("return document.body.dataset.playing"), "false", "{game}");
        browser.assert_quiet();
    }
}

/// Ticks told by their distances.
fn ticks(at: &Value) -> Vec<u64> {
    let mut tick = 0;
    let step = |pair: &Value| {
        tick += pair[0].as_u64().expect("a distance");
        tick
    };
    at.as_array().expect("a list").iter().map(step).collect()
}

#[test]
fn a_narrow_dark_page_is_not_wider_than_itself() {
    let bench = Bench::new();
    let Some(browser) = Browser::open(&bench, 500, true) else { return };
    bench.ok("batch piste heron avocet --matches 40 --seed 3 --name pair --quiet");
    let file = bench.json("replay pair --by longest_lull_s")["file"].clone();
    browser.go(&format!("file://{}", bench.path(file.as_str().expect("a file")).display()));
    browser.until("return document.body.dataset.opened !== undefined");
    let over = browser.run("return document.documentElement.scrollWidth - document.documentElement.clientWidth");
    assert!(over.as_f64().is_some_and(|pixels| pixels <= 0.0), "the page is {over} pixels too wide");
    let ground = browser.run("return getComputedStyle(document.documentElement).backgroundColor");
    assert_eq!(ground, "rgb(18, 18, 18)");
    browser.assert_quiet();
}

#[test]
fn a_match_that_comes_out_otherwise_than_its_rows_say_is_told() {
    let bench = Bench::new();
    for seed in [1, 2] {
        bench.ok(&format!("-q batch piste fencer heron --seed {seed} --matches 20 --rules touches=2 --name s{seed}"));
    }
    let sound = bench.run("match --again s1/3");
    assert!(sound.status.success() && sound.stderr.is_empty(), "{}", String::from_utf8_lossy(&sound.stderr));
    // The rows of another seed in the place of its own.
    for entry in std::fs::read_dir(bench.path("ledger/s2/rows")).expect("a folder").flatten() {
        std::fs::copy(entry.path(), bench.path("ledger/s1/rows").join(entry.file_name())).expect("it is copied");
    }
    for verb in ["match --again s1/3", "replay s1/3"] {
        let output = bench.run(verb);
        assert!(output.status.success(), "{verb}");
        insta::assert_snapshot!("comes_out_otherwise", String::from_utf8_lossy(&output.stderr));
    }
}
