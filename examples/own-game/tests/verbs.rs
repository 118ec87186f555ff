//! The example with a game of its own has the verbs of the program and the generic agents.

use std::process::Command;

#[test]
fn somebody_elses_game_has_every_verb_and_the_generic_agents() {
    let folder = tempfile::tempdir().unwrap();
    let run = |arguments: &str| {
        let output = Command::new(env!("CARGO_BIN_EXE_own-game"))
            .args(arguments.split_whitespace())
            .current_dir(folder.path())
            .env("NO_COLOR", "1")
            .env_remove("INKPOT_LEDGER")
            .output()
            .unwrap();
        assert!(output.status.success(), "{arguments}: {}", String::from_utf8_lossy(&output.stderr));
        String::from_utf8(output.stdout).unwrap()
    };
    let batch = run("--json batch stalls haggler drifter think=treesearch:iterations=100 -m 60");
    let batch: serde_json::Value = serde_json::from_str(&batch).unwrap();
    assert_eq!((&batch["matches"], &batch["entrants"][0]["faults"]), (&60.into(), &0.into()));
    let think = batch["entrants"][2]["win_rate"]["low"].as_f64().unwrap();
    assert!(think > batch["entrants"][1]["win_rate"]["high"].as_f64().unwrap(), "thinking beats chance");
    let sweep =
        run("sweep stalls --entrant haggler --against drifter --against other=drifter --vary price=2,5,9 -m 30");
    assert!(sweep.contains("haggler takes from"), "{sweep}");
    let ranked = run("--json tournament stalls haggler drifter other=drifter think=treesearch:iterations=100 -m 60");
    let ranked: serde_json::Value = serde_json::from_str(&ranked).unwrap();
    assert_eq!((&ranked["ratings"][0]["name"], ranked["pairings"].as_array().unwrap().len()), (&"think".into(), 6));
    assert!(
        run("tournament stalls haggler drifter a=drifter b=drifter c=drifter --format knockout -m 6")
            .contains("wins the knockout")
    );
    let compared =
        run("compare stalls treesearch:iterations=100 drifter --against haggler other=haggler --until clear");
    assert!(compared.contains("treesearch is better than drifter against haggler, other"), "{compared}");
    assert!(run("match stalls haggler playouts horizon --trace trace.jsonl").contains("(evening)"));
    // A game without a scene is replayed by its positions, where it has any.
    run("replay lanterns drifter drifter --out page.html");
    assert!(std::fs::read_to_string(folder.path().join("page.html")).unwrap().contains("lanterns"));
    assert!(run("explain stalls --agent treesearch").contains("Best line"));
    assert!(run("agents stalls horizon").contains("haggler"), "its own agent is a model of the others");
}

#[test]
fn what_needs_a_scene_says_so() {
    let folder = tempfile::tempdir().unwrap();
    for (arguments, what) in [
        ("games lanterns --scene stills", "error: `lanterns` draws no scene of its states"),
        (
            "replay stalls haggler drifter other=drifter",
            "error: `stalls` draws no scene of its states and writes no positions",
        ),
    ] {
        let mut command = Command::new(env!("CARGO_BIN_EXE_own-game"));
        let output =
            command.args(arguments.split_whitespace()).current_dir(folder.path()).env("NO_COLOR", "1").output();
        let output = output.unwrap();
        assert_eq!(output.status.code(), Some(2), "{arguments}");
        let text = String::from_utf8_lossy(&output.stderr);
        assert!(text.starts_with(what) && text.contains("  help: "), "{text}");
    }
}

#[test]
fn the_example_stays_under_two_hundred_lines() {
    let lines: usize = ["src/main.rs", "src/stalls.rs"]
        .iter()
        .map(|file| format!("{}/{file}", env!("CARGO_MANIFEST_DIR")))
        .map(|path| std::fs::read_to_string(path).unwrap().lines().count())
        .sum();
    assert!(lines < 200, "{lines} lines");
}
