//! What the program's figures are worth: claims simulated through the program itself, against truths that it finds with a
//! hundred times as many matches, or that are known without it.
//!
//! Each simulation has a short seeded form that always runs, and a full one that is ignored; CONTRIBUTING.md names them.

mod common;

use common::Bench;
use serde_json::Value;

fn number(value: &Value) -> f64 {
    value.as_f64().unwrap_or_else(|| panic!("a number, not {value}"))
}

fn holds(interval: &Value, truth: f64) -> bool {
    number(&interval["low"]) <= truth && truth <= number(&interval["high"])
}

fn says(told: &Value, what: &str) -> bool {
    told["notes"].as_array().expect("notes").iter().any(|note| note.as_str().expect("a text").contains(what))
}

/// Seats of the same agents on a board with few openings, which repeat within a study.
const REPEATED: &str =
    "sowing a=minimax:depth=3,ties=first b=minimax:depth=1,ties=first --rules pits=3,seeds=2,opening=4";

#[test]
fn openings_that_repeat_count_as_often_as_they_are_drawn() {
    let bench = Bench::new();
    let told = bench.json(&format!("batch {REPEATED} -m 2000 --seed 3"));
    let pairing = &told["pairings"][0];
    let won = number(&pairing["wins"]) + number(&pairing["draws"]) / 2.0;
    let share = won / number(&pairing["matches"]);
    assert!((number(&pairing["win_rate"]["value"]) - share).abs() < 1e-12, "{pairing}: {share}");
    assert!(!says(&told, "decided"), "{}", told["notes"]);
}

#[test]
fn a_match_that_is_always_the_same_is_called_decided_and_nothing_else_is() {
    let bench = Bench::new();
    let decided = "sowing a=minimax:depth=2,ties=first b=minimax:depth=1,ties=first --rules opening=0";
    let batch = bench.json(&format!("batch {decided} -m 60 --name same"));
    assert!(says(&batch, "decided: always the same match"), "{}", batch["notes"]);
    let rate = &batch["pairings"][0]["win_rate"];
    assert_eq!((&rate["low"], &rate["high"]), (&rate["value"], &rate["value"]));
    // The same by what is stored, and by a comparison that plays.
    let stored = bench.json("compare same/a same/b");
    let played = bench.json(&format!("compare {decided} -m 60"));
    for told in [&stored["comparison"], &played["comparison"]] {
        assert_eq!(&told["win_rate"], rate, "{told}");
    }
    let told = [format!("batch {decided} -m 60"), "compare same/a same/b".into(), format!("compare {decided} -m 60")];
    let sentence = |arguments: &String| bench.told(arguments).lines().take(3).collect::<Vec<_>>().join("\n");
    insta::assert_snapshot!("always_the_same_match", told.iter().map(sentence).collect::<Vec<_>>().join("\n\n"));
    // One block less than it takes.
    assert!(!says(&bench.json(&format!("batch {decided} -m 38")), "decided"));
}

#[test]
fn seats_have_their_own_chance_in_every_pairing_of_a_field_and_worlds_in_common() {
    let bench = Bench::new();
    for verb in ["batch", "tournament"] {
        bench.ok(&format!("{verb} sowing d1=drifter d2=drifter d3=drifter d4=drifter -m 40 --name {verb}"));
        bench.ok(&format!("ledger export {verb} --to csv --out {verb}.csv"));
        let export = bench.read(&format!("{verb}.csv"));
        let mut lines = export.lines().map(|line| line.split(',').collect::<Vec<_>>());
        let heading = lines.next().expect("a heading");
        let at = |name: &str| heading.iter().position(|own| *own == name).expect("the column is there");
        let (cell, world, score, seat) = (at("cell"), at("world_seed"), at("score"), at("seat"));
        let mut scores = vec![Vec::new(); 6];
        let mut worlds = vec![Vec::new(); 6];
        for row in lines.filter(|row| row[seat] == "0") {
            let pairing: usize = row[cell].parse().expect("a number");
            scores[pairing].push(row[score].to_string());
            worlds[pairing].push(row[world].to_string());
        }
        for one in 0..6 {
            for other in 0..one {
                assert_ne!(scores[one], scores[other], "{verb}: pairings {other} and {one} are one and the same");
                assert_eq!(worlds[one], worlds[other], "{verb}: pairings {other} and {one} meet other worlds");
            }
        }
    }
}

/// How often the interval of a figure of entrant 0 held over studies of so many blocks, and in how many it had one.
fn covered(
    bench: &Bench,
    study: &str,
    figure: &[&str],
    truth: f64,
    blocks: u64,
    seeds: std::ops::Range<u64>,
) -> (u64, u64) {
    let (mut held, mut seen) = (0, 0);
    for seed in seeds {
        let told = bench.json(&format!("{study} -m {} --seed {seed} --name c{blocks}-{seed}", 2 * blocks));
        let own = figure.iter().fold(&told["entrants"][0], |at, key| &at[*key]);
        if own["low"].is_number() {
            seen += 1;
            held += u64::from(holds(own, truth));
        }
        bench.ok(&format!("ledger remove c{blocks}-{seed}"));
    }
    (held, seen)
}

#[test]
fn fewer_blocks_than_twenty_give_means_no_interval() {
    let bench = Bench::new();
    let told = |blocks: u64| bench.json(&format!("batch piste fencer newcomer -m {} --seed 4", 2 * blocks));
    let few = told(19);
    for figure in [&few["entrants"][0]["score"], &few["entrants"][0]["measures"]["doubles"]] {
        assert!(figure["value"].is_number() && figure["low"].is_null() && figure["high"].is_null(), "{figure}");
    }
    assert!(told(20)["entrants"][0]["score"]["low"].is_number());
    insta::assert_snapshot!("too_few_blocks", bench.told("batch piste fencer newcomer -m 38 --seed 4"));
}
