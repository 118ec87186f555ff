//! The page on games of one's own shows the examples and the traits as they are.

use std::fs;

fn read(path: &str) -> String {
    fs::read_to_string(format!("{}/{path}", env!("CARGO_MANIFEST_DIR")))
        .unwrap_or_else(|error| panic!("{path}: {error}"))
}

fn on_one_line(text: &str) -> String {
    let lines = text.lines().map(|line| line.split("//").next().unwrap_or_default().trim());
    lines.collect::<Vec<_>>().join(" ").replace("( ", "(").replace(", )", ")")
}

/// The blocks of Rust on the page.
fn blocks() -> Vec<String> {
    let page = read("../../docs/own-game.md");
    let blocks = page.split("```rust\n").skip(1);
    blocks.map(|block| block.split("```").next().unwrap_or_default().to_string()).collect()
}

#[test]
fn the_board_game_is_printed_as_a_whole() {
    let game = read("src/lanterns.rs");
    let printed: Vec<String> = blocks().into_iter().filter(|block| game.contains(block.trim_end())).collect();
    let lines = |text: &str| text.lines().filter(|line| !line.trim().is_empty()).count();
    assert_eq!(printed.iter().map(|block| lines(block)).sum::<usize>(), lines(&game), "every line stands on the page");
}

#[test]
fn what_is_shown_of_the_stalls_is_theirs() {
    let game = on_one_line(&read("src/stalls.rs"));
    let shown: Vec<String> = blocks().iter().filter(|block| block.contains("crates")).map(|b| on_one_line(b)).collect();
    assert_eq!(shown.len(), 2, "what is hidden, and the agent");
    for block in shown {
        // The page leaves out what stands between.
        for part in block.split("  ").filter(|part| !part.trim().is_empty()) {
            assert!(game.contains(part.trim()), "not in stalls.rs: {part}");
        }
    }
}

#[test]
fn every_signature_is_that_of_the_library() {
    let core = ["game", "capability", "features"]
        .map(|file| on_one_line(&read(&format!("../../crates/inkpot-core/src/{file}.rs"))));
    let traits: Vec<String> = blocks().into_iter().filter(|block| block.contains("pub trait ")).collect();
    let lines: Vec<String> = traits.iter().flat_map(|block| block.lines().map(on_one_line)).collect();
    let said = lines.iter().map(|line| line.trim_end_matches([';', '{', '}', ' '])).filter(|line| !line.is_empty());
    for line in said {
        assert!(core.iter().any(|file| file.contains(line)), "the library does not say `{line}`");
    }
}
