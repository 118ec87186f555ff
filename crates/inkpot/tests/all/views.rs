//! What people read: tables, help and lists, as snapshots.

use crate::common::Bench;
use insta::assert_snapshot;

#[test]
fn overview() {
    assert_snapshot!(Bench::new().console("--help"));
}

#[test]
fn games_and_agents() {
    let bench = Bench::new();
    assert_snapshot!("games", bench.console("games"));
    assert_snapshot!("game", bench.console("games piste"));
    assert_snapshot!("agents", bench.console("agents piste"));
    assert_snapshot!("agent", bench.console("agents piste heron"));
}

#[test]
fn batch_of_three() {
    assert_snapshot!(Bench::new().console("batch piste heron turnstone dunlin --matches 40 --seed 2"));
}

#[test]
fn sweep_with_target() {
    let bench = Bench::new();
    assert_snapshot!(bench.console(
        "sweep piste --entrant guest=newcomer --against house=fencer --vary house.skill=0..1/6 --target 0.55 -m 60"
    ));
}

#[test]
fn sweep_of_a_rule_given_in_words() {
    let bench = Bench::new();
    assert_snapshot!(
        bench.console("sweep piste --entrant heron --against turnstone --vary rules.double=both,neither -m 20")
    );
}

#[test]
fn sweep_that_does_nothing_says_so() {
    // Feints of a rate of zero to a hundred-thousandth: the knob is turned, the play stays.
    let bench = Bench::new();
    let text =
        bench.ok("sweep piste --entrant godwit --against other=godwit --vary feint_rate=0..0.00001/5 -m 40 --seed 4");
    assert!(text.contains("no effect of `godwit.feint_rate` on the win rate is seen"), "{text}");
}

#[test]
fn match_told() {
    assert_snapshot!(Bench::new().console("match piste newcomer heron --seed 7 --rules touches=2"));
}

#[test]
fn brief_printed() {
    assert_snapshot!(Bench::new().console("batch piste newcomer house=fencer:skill=0.6 --seed 11 --print-brief"));
}

#[test]
fn new_folder_has_briefs_that_check() {
    let bench = Bench::new();
    assert_snapshot!(bench.console("new start"));
    for brief in ["how-hard", "skill", "birds", "better", "nerves", "grades", "slips", "field"] {
        let checked = bench.ok(&format!("--json check start/briefs/{brief}.toml"));
        let checked: serde_json::Value = serde_json::from_str(&checked).unwrap();
        assert!(checked["matches"].as_u64().unwrap() >= 1000, "{brief}: {checked}");
    }
}

#[test]
fn ledger_lists_removes_and_shows_extremes() {
    let bench = Bench::new();
    assert_snapshot!("empty_ledger", bench.console("ledger list"));
    bench.ok("batch piste heron turnstone --matches 20 --name birds --quiet");
    assert_snapshot!("extremes", bench.console("ledger show birds --by reversals_per_s --most 2"));
    assert!(bench.ok("ledger list").contains("complete"));
    bench.ok("ledger remove birds");
    assert!(!bench.ok("ledger list").contains("birds"));
}

#[test]
fn completions_name_every_verb() {
    let script = Bench::new().ok("completions bash");
    for verb in ["demo", "batch", "sweep", "resume", "ledger"] {
        assert!(script.contains(verb), "{verb}");
    }
}
