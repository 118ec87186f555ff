//! Where results go: lost standard output, side files that appear whole, locks, names that a shell takes apart.

use std::fs::{self, File};
use std::io::{BufRead, BufReader};
use std::process::Stdio;

use crate::common::Bench;
use inkpot_ledger::Ledger;

/// A gate that fails.
const GATE: &str = "compare piste newcomer veteran --matches 40 --require better --quiet";

/// Runs a command with standard output or standard error on a full device; gives the exit code and what can be read.
fn into_full(bench: &Bench, arguments: &str, errors_too: bool) -> (Option<i32>, String) {
    let full = || File::options().write(true).open("/dev/full").expect("a full device");
    let mut command = bench.command(arguments);
    command.stdout(if errors_too { Stdio::null() } else { full().into() });
    command.stderr(if errors_too { full().into() } else { Stdio::piped() });
    let output = command.output().expect("the program runs");
    (output.status.code(), String::from_utf8_lossy(&output.stderr).into_owned())
}

#[test]
#[cfg(target_os = "linux")]
fn results_that_cannot_be_written_fail_the_program_and_a_lost_standard_error_never_does() {
    let bench = Bench::new();
    bench.ok("batch piste heron dunlin --matches 20 --name trial --quiet");
    for arguments in [GATE, "ledger list", "ledger export trial", "--help", "batch --help", "completions bash", "games"]
    {
        let (code, errors) = into_full(&bench, arguments, false);
        assert_eq!(code, Some(1), "{arguments}: {errors}");
        assert!(errors.contains("cannot be written to standard output: the disk is full"), "{arguments}: {errors}");
    }
    for (arguments, code) in [(GATE, 3), ("ledger show nothing", 2), ("ledger list", 0), ("nonsense", 2)] {
        assert_eq!(into_full(&bench, arguments, true).0, Some(code), "{arguments}");
    }
    assert_eq!(into_full(&bench, &format!("-vv {GATE}"), true).0, Some(3));
}

#[test]
fn a_reader_that_leaves_changes_no_exit_code() {
    let bench = Bench::new();
    bench.ok("batch piste heron dunlin --matches 4000 --name trial --quiet");
    for (arguments, code) in [(GATE, 3), ("ledger export trial", 0), ("ledger show trial", 0)] {
        let mut command = bench.command(arguments);
        let mut child = command.stdout(Stdio::piped()).stderr(Stdio::null()).spawn().expect("the program runs");
        let mut line = String::new();
        let read = child.stdout.take().expect("it is piped");
        if arguments == GATE {
            drop(read);
        } else {
            BufReader::new(read).read_line(&mut line).expect("a line can be read");
        }
        assert_eq!(child.wait().expect("it ends").code(), Some(code), "{arguments}");
    }
}

#[test]
#[cfg(target_os = "linux")]
fn results_are_printed_even_where_a_side_file_fails() {
    let bench = Bench::new();
    for arguments in [
        "compare piste newcomer veteran --matches 40 --junit /dev/full".to_string(),
        "match piste heron dunlin --trace /dev/full".to_string(),
    ] {
        let output = bench.run(&arguments);
        let (out, errors) = (String::from_utf8_lossy(&output.stdout), String::from_utf8_lossy(&output.stderr));
        assert_eq!(output.status.code(), Some(1), "{arguments}");
        assert!(out.contains("Rally (s)"), "{out}");
        assert!(errors.contains("cannot write /dev/full: the disk is full"), "{errors}");
    }
}

#[test]
fn an_export_follows_the_name_of_its_file_and_counts_what_it_wrote() {
    let bench = Bench::new();
    bench.ok("batch piste heron dunlin --matches 20 --name trial --quiet");
    let console = bench.console("ledger export trial --out rows.parquet");
    assert!(console.contains("40 rows in rows.parquet"), "{console}");
    assert_eq!(&fs::read(bench.path("rows.parquet")).expect("it is written")[..4], b"PAR1");
    bench.ok("ledger export trial --out rows.txt");
    assert!(bench.read("rows.txt").starts_with("cell,block,"));
    let console = bench.console("ledger export trial --to csv --out other.jsonl");
    assert!(console.contains("exit 2") && console.contains("stands for another format"), "{console}");
    assert!(!bench.path("other.jsonl").exists());
}

#[test]
fn two_exports_at_once_do_not_mix() {
    let bench = Bench::new();
    bench.ok("batch piste heron dunlin --matches 3000 --name one --quiet");
    bench.ok("batch piste heron dunlin --matches 3000 --seed 2 --name two --quiet");
    let whole = ["one", "two"].map(|study| bench.ok(&format!("ledger export {study}")));
    for _ in 0..4 {
        let both = ["one", "two"].map(|study| {
            bench.command(&format!("ledger export {study} --out both.csv --quiet")).spawn().expect("the program runs")
        });
        for mut child in both {
            assert!(child.wait().expect("it ends").success());
        }
        assert!(whole.contains(&bench.read("both.csv")));
    }
}

#[cfg(unix)]
#[test]
fn a_link_is_followed_and_a_failed_write_leaves_the_file_as_it_was() {
    let bench = Bench::new();
    bench.ok("batch piste heron dunlin --matches 20 --name trial --quiet");
    bench.write("kept/page.html", "before");
    std::os::unix::fs::symlink("kept/page.html", bench.path("page.html")).expect("a link");
    bench.ok("report trial --out page.html");
    assert!(bench.read("kept/page.html").starts_with("<!DOCTYPE html>"));
    assert!(fs::symlink_metadata(bench.path("page.html")).expect("it is there").is_symlink());
    bench.write("kept/page.html", "before");
    for step in 1..=2 {
        let output = bench.command("report trial --out page.html").env("INKPOT_STEP", format!("full:{step}")).output();
        assert_eq!(output.expect("the program runs").status.code(), Some(1), "step {step}");
        assert_eq!(bench.read("kept/page.html"), "before");
    }
    assert_eq!(fs::read_dir(bench.path("kept")).expect("it is there").count(), 1, "nothing is left aside");
}

#[test]
fn studies_added_to_a_pool_at_once_are_all_there() {
    let bench = Bench::new();
    let pool =
        "game = \"piste\"\nanchor = \"heron\"\n[[entrant]]\nagent = \"heron\"\n[[entrant]]\nagent = \"dunlin\"\n";
    bench.write("pool.toml", pool);
    let names: Vec<String> = (1..=4).map(|seed| format!("study-{seed}")).collect();
    for (seed, name) in names.iter().enumerate() {
        bench.ok(&format!("batch piste heron dunlin --matches 40 --seed {} --name {name} --quiet", seed + 1));
    }
    let add =
        |name: &String| bench.command(&format!("pool add pool.toml {name} --quiet")).stdout(Stdio::null()).spawn();
    let children: Vec<_> = names.iter().map(|name| add(name).expect("the program runs")).collect();
    for mut child in children {
        assert!(child.wait().expect("it ends").success());
    }
    let text = bench.read("pool.toml");
    assert!(names.iter().all(|name| text.contains(&format!("study = \"{name}\""))), "{text}");
}

#[test]
fn a_folder_called_like_a_pattern_is_no_pattern() {
    let bench = Bench::new();
    bench.write("maps [a]*/agents/one.toml", "agent = \"heron\"\n");
    bench.write("maps [a]*/agents/two.toml", "agent = \"dunlin\"\n");
    bench.write(
        "maps [a]*/b.toml",
        "kind = \"batch\"\ngame = \"piste\"\nmatches = 20\n[[entrant]]\nfile = \"agents/*.toml\"\n",
    );
    let mut command = bench.command("run --print-brief");
    let output = command.arg("maps [a]*/b.toml").output().expect("the program runs");
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    assert!(String::from_utf8_lossy(&output.stdout).contains("name = \"two\""));
}

#[test]
fn commands_that_are_suggested_can_be_typed() {
    let bench = Bench::new();
    let mut command = bench.command("batch piste heron dunlin --matches 20 --name trial");
    let output = command.args(["--ledger", "my studies; today"]).output().expect("the program runs");
    let output = String::from_utf8_lossy(&output.stdout).into_owned();
    assert!(output.contains("`inkpot --ledger 'my studies; today' plot trial` draws it"), "{output}");
}

#[test]
fn a_sheet_with_a_number_that_is_none_is_refused() {
    let bench = Bench::new();
    bench.write("sheet.toml", "format = 1\n[[rung]]\nname = \"one\"\nvalues = [{ value = inf }]\n");
    let console = bench.console("tune --verify sheet.toml");
    assert!(
        console.contains("exit 2") && console.contains("`rung[0].values[0].value` is not a finite number"),
        "{console}"
    );
}

#[cfg(unix)]
#[test]
fn a_study_that_only_looks_like_one_is_left_alone() {
    let bench = Bench::new();
    bench.ok("batch piste heron dunlin --matches 20 --name trial --quiet");
    bench.write("elsewhere/letters.txt", "kept");
    std::os::unix::fs::symlink("../elsewhere", bench.path("ledger/link")).expect("a link");
    let console = bench.console("ledger remove link");
    assert!(console.contains("exit 2") && console.contains("there is no study `link`"), "{console}");
    assert_eq!(bench.read("elsewhere/letters.txt"), "kept");
    // What a process that died before anything was played left behind can be seen and removed.
    bench.write("ledger/orphan/brief.toml", "kind = \"batch\"\n");
    assert!(bench.ok("ledger list").contains("left over, without a manifest"));
    let console = bench.console("ledger show orphan");
    assert!(console.contains("`inkpot ledger remove orphan` removes it"), "{console}");
    bench.ok("ledger remove orphan");
    assert_eq!(Ledger::at(&bench.path("ledger")).names().expect("it can be read"), ["trial"]);
}

#[test]
fn a_study_under_way_shows_what_can_be_said_by_now() {
    let bench = Bench::new();
    let command = "batch piste heron dunlin avocet --matches 200 --name trial --quiet";
    let whole = bench.ok(command);
    bench.ok("ledger remove trial --quiet");
    let mut died = bench.command(command);
    let died = died.env("INKPOT_PART_ROWS", "64").env("INKPOT_STEP", "die:40").output().expect("the program runs");
    assert_eq!(died.status.code(), None);
    let console = bench.console("ledger show trial");
    assert!(
        console.contains("exit 0\nPartial results: ") && console.contains("of 300 blocks have been played"),
        "{console}"
    );
    assert!(
        console.contains("`inkpot resume trial` continues the study") && console.contains("note: partial results: "),
        "{console}"
    );
    assert!(!console.contains(whole.trim()), "what is said of the whole is not said of a part: {console}");
    let part = bench.json("ledger show trial");
    assert!(part["notes"][0].as_str().is_some_and(|note| note.starts_with("partial results: ")), "{part}");
    assert!(part["matches"].as_u64().is_some_and(|matches| matches > 0 && matches < 600), "{part}");
}
