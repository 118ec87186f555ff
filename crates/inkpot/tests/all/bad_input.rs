//! Wrong briefs and command lines: each gets exit code 2 (or 1), a message that says what to do, and no panic.

use crate::common::{Bench, json, parts};
use insta::assert_snapshot;

const ENTRANTS: &str = "[[entrant]]\nagent = \"newcomer\"\n\n[[entrant]]\nagent = \"fencer\"\n";

/// What `check` says of a brief; the code must be 2.
fn brief(text: impl AsRef<[u8]>) -> String {
    let bench = Bench::new();
    bench.write("b.toml", text);
    let console = bench.console("check b.toml");
    assert!(console.contains("exit 2"), "{console}");
    console
}

fn batch(lines: &str) -> String {
    brief(format!("kind = \"batch\"\ngame = \"piste\"\n{lines}\n{ENTRANTS}"))
}

fn sweep(lines: &str) -> String {
    brief(format!("kind = \"sweep\"\ngame = \"piste\"\n{ENTRANTS}\n{lines}"))
}

/// What a command line comes to; the code must be the one given.
fn line(arguments: &str, code: i32) -> String {
    let console = Bench::new().console(arguments);
    assert!(console.contains(&format!("exit {code}")), "{console}");
    console
}

fn tournament(lines: &str) -> String {
    brief(format!("kind = \"tournament\"\ngame = \"piste\"\n{lines}\n{ENTRANTS}"))
}

fn compare(lines: &str) -> String {
    brief(format!("kind = \"compare\"\ngame = \"piste\"\n{lines}\n{ENTRANTS}"))
}

macro_rules! wrong {
    ($($name:ident: $console:expr;)*) => {$(
        #[test]
        fn $name() {
            assert_snapshot!($console);
        }
    )*};
}

wrong! {
    seats_that_a_game_does_not_have: line("batch regatta beeline tacker --seats 9", 2);
    seats_of_a_game_that_has_one_number_of_them: batch("seats = 3");
    seats_that_too_few_entrants_fill: line("batch regatta beeline tacker --seats 3", 2);
    one_seat_in_a_tournament: line("tournament regatta beeline tacker --seats 1", 2);
    one_seat_in_a_comparison: line("compare regatta beeline tacker --seats 1", 2);
    more_seats_than_a_sweep_has_entrants: line("sweep regatta --entrant tacker --against beeline --vary rules.wind=4..8/3 --seats 3", 2);
    fewer_seats_than_a_sweep_has_entrants: line("sweep regatta --entrant tacker --against beeline --vary rules.wind=4..8/3 --seats 1", 2);
    a_match_of_more_than_there_are_seats: line("match piste heron dunlin godwit", 2);
    brief_with_an_unknown_key: batch("match = 10");
    brief_with_a_misspelt_game: brief(format!("kind = \"batch\"\ngame = \"pist\"\n{ENTRANTS}"));
    brief_with_an_unknown_kind: brief(format!("kind = \"bach\"\ngame = \"piste\"\n{ENTRANTS}"));
    brief_without_kind: brief(format!("game = \"piste\"\n{ENTRANTS}"));
    brief_that_is_empty: brief("");
    brief_with_a_misspelt_agent: brief("kind = \"batch\"\ngame = \"piste\"\n[[entrant]]\nagent = \"newcommer\"\n[[entrant]]\nagent = \"fencer\"\n");
    brief_with_a_knob_out_of_range: brief("kind = \"batch\"\ngame = \"piste\"\n[[entrant]]\nagent = \"newcomer\"\n[[entrant]]\nagent = \"fencer\"\nknobs = { skill = 1.5 }\n");
    brief_with_a_misspelt_knob: brief("kind = \"batch\"\ngame = \"piste\"\n[[entrant]]\nagent = \"newcomer\"\n[[entrant]]\nagent = \"fencer\"\nknobs = { skil = 0.5 }\n");
    brief_with_nan: brief("kind = \"batch\"\ngame = \"piste\"\n[[entrant]]\nagent = \"newcomer\"\n[[entrant]]\nagent = \"fencer\"\nknobs = { skill = nan }\n");
    brief_with_a_wrong_choice: batch("rules = { double = \"niether\" }");
    brief_with_a_rule_that_is_no_number: batch("rules = { touches = true }");
    brief_with_one_entrant: brief("kind = \"batch\"\ngame = \"piste\"\n[[entrant]]\nagent = \"newcomer\"\n");
    brief_with_two_of_one_name: brief("kind = \"batch\"\ngame = \"piste\"\n[[entrant]]\nname = \"a\"\nagent = \"heron\"\n[[entrant]]\nname = \"a\"\nagent = \"dunlin\"\n");
    brief_with_zero_matches: batch("matches = 0");
    brief_with_negative_matches: batch("matches = -5");
    brief_with_a_huge_number: batch("matches = 99999999999999999999");
    brief_with_half_a_match: batch("matches = 10.5");
    brief_with_a_seed_in_quotes: batch("seed = \"eleven\"");
    brief_with_an_impossible_confidence: batch("confidence = 1.0");
    brief_with_a_misspelt_level: batch("level = \"peer\"");
    brief_with_a_level_knob_out_of_range: batch("level = \"pier:strip=99\"");
    brief_with_a_misspelt_level_knob: batch("level = \"pier:stirp=9\"");
    brief_with_a_level_file_that_is_missing: batch("level = \"maps/late.txt\"");
    line_with_a_level_file_for_a_game_without: { let bench = Bench::new(); bench.write("map.txt", "x"); bench.console("match piste newcomer heron --level map.txt") };
    line_with_a_level_file_of_another_board: { let bench = Bench::new(); bench.write("late.txt", "4,4/4,4/0:0/south"); bench.console("match sowing grabber drifter --level late.txt") };
    sweep_over_a_level_knob_that_is_not_there: sweep("[[vary]]\nof = \"level\"\nknob = \"width\"\nfrom = 8\nto = 12\npoints = 3\n");
    sweep_over_a_level_that_is_not_there: sweep("[[vary]]\nknob = \"level\"\nvalues = [\"pier\", \"quay\"]\n");
    brief_with_everything_wrong_at_once: batch("matches = 0\nconfidence = 2.0\nlevl = \"pier\"\nrules = { touchs = 3, time = 1e9 }");
    brief_that_is_no_toml: brief("kind = \"batch\ngame = 3");
    brief_that_is_not_utf8: brief([0xff, 0xfe, b'k', b'i']);
    batch_with_a_target: batch("target = 0.5");
    sweep_without_vary: sweep("");
    sweep_over_an_unknown_knob: sweep("[[vary]]\nof = \"fencer\"\nknob = \"skull\"\nfrom = 0\nto = 1\npoints = 5\n");
    sweep_of_an_unknown_entrant: sweep("[[vary]]\nof = \"fencr\"\nknob = \"skill\"\nfrom = 0\nto = 1\npoints = 5\n");
    sweep_past_the_range: sweep("[[vary]]\nof = \"fencer\"\nknob = \"skill\"\nfrom = 0\nto = 2\npoints = 5\n");
    sweep_with_half_a_range: sweep("[[vary]]\nof = \"fencer\"\nknob = \"skill\"\nfrom = 0\n");
    sweep_with_too_many_points: sweep("[[vary]]\nof = \"fencer\"\nknob = \"skill\"\nfrom = 0\nto = 1\npoints = 5000\n");
    sweep_backwards: sweep("[[vary]]\nof = \"fencer\"\nknob = \"skill\"\nfrom = 1\nto = 0\npoints = 5\n");

    tournament_of_an_unknown_format: tournament("format = \"swis\"");
    tournament_with_rounds_that_do_nothing: tournament("rounds = 3");
    tournament_with_zero_rounds: tournament("format = \"swiss\"\nrounds = 0");
    tournament_with_an_unknown_anchor: tournament("anchor = \"fencr\"");
    tournament_with_a_vary_of_its_own: tournament("[[vary]]\nknob = \"skill\"\nvalues = [0.1, 0.2]\n");
    tournament_with_zero_matches: tournament("matches = 0");
    batch_with_a_format: batch("format = \"swiss\"");
    entrant_with_agent_and_file: tournament("[[entrant]]\nagent = \"heron\"\nfile = \"heron.toml\"\n");
    entrant_with_a_grid_of_nothing: tournament("[[entrant]]\nagent = \"fencer\"\nname = \"f\"\nvary = { skull = [1, 2], skill = { from = 0, to = 1 } }\n");
    entrant_varied_past_the_range: tournament("[[entrant]]\nagent = \"fencer\"\nname = \"f\"\nvary = { skill = [0.5, 1.5] }\n");
    entrant_set_and_varied: tournament("[[entrant]]\nagent = \"fencer\"\nname = \"f\"\nknobs = { skill = 0.5 }\nvary = { skill = [0.5, 0.6] }\n");
    entrants_beyond_number: tournament("[[entrant]]\nagent = \"fencer\"\nname = \"f\"\nvary = { skill = { from = 0, to = 1, points = 900 }, reaction = [1, 2] }\n");
    compare_until_something_else: compare("until = \"done\"");
    compare_within_everything: compare("equal_within = 0.5");
    compare_with_an_unknown_requirement: compare("require = \"beter\"");

    line_with_a_tournament_of_one: line("tournament piste heron", 2);
    line_with_a_tournament_of_nobody: line("tournament piste", 2);
    line_with_two_of_one_name_in_a_tournament: line("tournament piste a=heron a=dunlin", 2);
    line_with_zero_matches_in_a_tournament: line("tournament piste heron dunlin -m 0", 2);
    line_with_an_unknown_format: line("tournament piste heron dunlin --format ladder", 2);
    line_with_an_unknown_anchor: line("tournament piste heron dunlin --anchor hero", 2);
    line_with_one_to_compare: line("compare piste heron", 2);
    line_with_four_to_compare: line("compare piste heron dunlin avocet", 2);
    line_with_a_missing_file: line("run nowhere.toml", 2);
    line_with_a_folder_for_a_brief: line("run .", 2);
    line_with_an_unknown_verb: line("bach piste heron dunlin", 2);
    line_with_an_unknown_option: line("batch piste heron dunlin --machtes 10", 2);
    line_with_a_misspelt_agent: line("batch piste heron dunlinn", 2);
    line_with_a_misspelt_knob: line("batch piste heron house=fencer:skil=0.3", 2);
    line_with_a_knob_without_value: line("batch piste heron fencer:skill", 2);
    line_with_a_knob_twice: line("batch piste heron fencer:skill=0.1,skill=0.2", 2);
    line_with_a_knob_that_is_nan: line("batch piste heron fencer:skill=NaN", 2);
    line_with_an_entrant_without_agent: line("batch piste house= heron", 2);
    line_with_one_entrant: line("batch piste heron", 2);
    line_with_three_in_a_match: line("match piste heron dunlin avocet", 2);
    line_with_zero_matches: line("batch piste heron dunlin --matches 0", 2);
    line_with_minus_matches: line("batch piste heron dunlin --matches=-3", 2);
    line_with_zero_threads: line("--threads 0 games", 2);
    line_with_a_rule_out_of_range: line("batch piste heron dunlin --rules touches=0", 2);
    line_with_a_rule_that_is_half: line("batch piste heron dunlin --rules touches=2.5", 2);
    line_with_a_vary_without_points: line("sweep piste --entrant heron --against dunlin --vary skill=0..1", 2);
    line_with_a_target_of_one: line("sweep piste --entrant heron --against dunlin --vary skill=0..1/5 --target 1", 2);
    line_with_an_unknown_study: line("resume nothing", 2);
    line_with_an_unknown_game: line("agents fence", 2);
    line_with_a_bad_study_name: line("batch piste heron dunlin --name ../up", 2);
    line_with_a_match_nowhere: line("match --again trial", 2);
}

#[test]
fn a_knob_without_a_name_is_told() {
    let bench = Bench::new();
    bench.write(
        "nameless.toml",
        "kind = \"tune\"\ngame = \"piste\"\n[opponent]\nagent = \"fencer\"\nknobs = { \"\" = 0.6 }\n[[free]]\n\
         knob = \"skill\"\n[[rung]]\nname = \"a\"\nstand_in = \"regular\"\n[[rung.targets]]\n\
         figure = \"win_rate\"\nvalue = 0.5\nwithin = 0.05\n",
    );
    insta::assert_snapshot!(bench.console("check nameless.toml"));
}

#[test]
fn study_name_taken() {
    let bench = Bench::new();
    bench.ok("batch piste heron dunlin --matches 2 --name trial --quiet");
    assert_snapshot!(bench.console("batch piste heron dunlin --matches 2 --name trial"));
}

#[test]
fn study_of_a_newer_format() {
    let bench = Bench::new();
    bench.ok("batch piste heron dunlin --matches 2 --name trial --quiet");
    let mut manifest = json(&bench.read("ledger/trial/manifest.json"));
    manifest["format"] = 99.into();
    bench.write("ledger/trial/manifest.json", manifest.to_string());
    for (name, verb) in [("newer_show", "ledger show"), ("newer_resume", "resume")] {
        assert_snapshot!(name, bench.console(&format!("{verb} trial")));
    }
}

#[test]
fn part_file_cut_short() {
    let bench = Bench::new();
    bench.ok("batch piste heron dunlin --matches 4 --name trial --quiet");
    let part = parts(&bench.path("ledger"), "trial").remove(0);
    let bytes = std::fs::read(&part).unwrap();
    std::fs::write(&part, &bytes[..bytes.len() / 2]).unwrap();
    assert_snapshot!("cut_export", bench.console("ledger export trial"));
    assert_snapshot!("cut_verify", bench.console("ledger verify trial"));
}

#[test]
fn manifest_that_is_no_json() {
    let bench = Bench::new();
    bench.ok("batch piste heron dunlin --matches 2 --name trial --quiet");
    bench.write("ledger/trial/manifest.json", "{");
    assert_snapshot!(bench.console("ledger show trial"));
}

#[test]
fn match_number_past_the_end() {
    let bench = Bench::new();
    bench.ok("batch piste heron dunlin --matches 4 --name trial --quiet");
    assert_snapshot!(bench.console("match --again trial/4"));
}

#[test]
fn figure_that_does_not_fit() {
    let bench = Bench::new();
    bench.ok("batch piste heron dunlin --matches 4 --name trial --quiet");
    assert_snapshot!("unfit_figure", bench.console("plot trial --figure response"));
    assert_snapshot!("unknown_figure", bench.console("plot trial --figure respons"));
    assert_snapshot!("measure_of_another_figure", bench.console("plot trial --figure rates --measure lunges"));
    assert_snapshot!("unknown_ending", bench.console("plot trial --figure rates --out rates.jpg"));
    assert_snapshot!("unknown_measure", bench.console("ledger show trial --by reversal"));
}

#[test]
fn ledger_that_is_a_file() {
    let bench = Bench::new();
    bench.write("taken", "not a folder");
    assert_snapshot!("ledger_is_a_file", bench.console("--ledger taken batch piste heron dunlin --matches 2"));
    assert_snapshot!("ledger_in_a_file", bench.console("--ledger taken/deeper batch piste heron dunlin --matches 2"));
}

#[test]
fn new_into_a_folder_in_use() {
    let bench = Bench::new();
    bench.write("full/file.txt", "mine");
    assert_snapshot!(bench.console("new full"));
    assert_eq!(bench.read("full/file.txt"), "mine");
}

#[test]
fn one_misspelling_is_one_problem_and_a_missing_kind_hides_nothing() {
    assert_snapshot!(brief(
        "game = \"sowing\"\nmatchs = 200\n[[entrant]]\nname = \"a\"\nagent = \"minmax\"\n[[entrant]]\nagent = \"grabber\"\n[[vary]]\nof = \"a\"\nnob = \"depth\"\nfrom = 1\nto = 4\npoints = 3\n"
    ));
}

#[test]
fn points_between_whole_numbers() {
    let bench = Bench::new();
    assert_snapshot!(bench.console("sweep sowing --entrant a=minimax --against grabber --vary a.depth=1..4/3"));
}

#[test]
fn ten_of_many_problems_are_shown_and_the_others_counted() {
    let knobs: Vec<String> = (0..60).map(|number| format!("k{number} = 1")).collect();
    let text = format!(
        "kind = \"batch\"\ngame = \"piste\"\n[[entrant]]\nagent = \"heron\"\nknobs = {{ {} }}\n[[entrant]]\nagent = \"dunlin\"\n",
        knobs.join(", ")
    );
    let console = brief(text);
    assert_eq!(console.matches("error:").count(), 10, "{console}");
    assert!(console.contains("60 problems, 50 of them not shown"), "{console}");
}

#[test]
fn what_is_no_file_or_far_too_large_is_not_read() {
    let bench = Bench::new();
    bench.write("large.toml", vec![b'#'; (8 << 20) + 1]);
    assert!(bench.console("check large.toml").contains("large.toml is larger than 8 MiB"));
    assert!(bench.console("check .").contains("exit 2"));
    bench.write("bytes.toml", [0xff, 0xfe, 0x00]);
    assert!(bench.console("check bytes.toml").contains("bytes.toml is not text"));
    #[cfg(unix)]
    {
        // Nobody writes into the pipe, and nothing waits for somebody who does.
        let made = std::process::Command::new("mkfifo").arg(bench.path("pipe.toml")).status().unwrap();
        assert!(made.success() && bench.console("check pipe.toml").contains("pipe.toml is not a file"));
        assert!(bench.console("check /dev/zero").contains("/dev/zero is not a file"));
    }
}

#[test]
fn a_search_that_cannot_fit_into_memory_is_refused_at_once() {
    let search = |seeds: u64, population: u64| {
        brief(format!(
            "kind = \"evolve\"\ngame = \"piste\"\nseeds = {seeds}\nmatches = 1_000_000_000\n[subject]\nagent = \"policy\"\n\
             layers = [900, 900]\n[method]\nname = \"genetic\"\npopulation = {population}\n[[term]]\nfigure = \"win_rate\"\n\
             [[opponent]]\nagent = \"heron\"\n"
        ))
    };
    assert!(search(3, 100_000).contains("GiB of memory"));
    assert!(search(1_000_000_000, 4).contains("it must be a whole number from 1 to 1000"));
}

/// Rules that are wrong are named with their place, also where a policy's features depend on them.
#[test]
fn wrong_rules_of_a_search_are_named() {
    for (rule, what) in [
        ("wind = 30", "the knob `wind` cannot be 30"),
        ("wnd = 8", "there is no knob `wnd`"),
        ("rudder = \"x\"", "the knob `rudder` cannot be x"),
    ] {
        for kind in ["evolve", "train"] {
            let text = format!(
                "kind = \"{kind}\"\ngame = \"regatta\"\nlevel = \"reach\"\n[rules]\n{rule}\n[subject]\nagent = \"policy\"\n\
                 [[term]]\nfigure = \"finished\"\n"
            );
            let console = brief(text);
            assert!(console.contains(what) && console.contains("b.toml:5"), "{console}");
        }
    }
}
