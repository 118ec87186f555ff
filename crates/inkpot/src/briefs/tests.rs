//! Briefs of every kind, with numbers of every length: a written brief reads back as the same.

use std::fmt::Write;
use std::fs;
use std::path::Path;

use clap::Parser;
use inkpot_lab::{Entrant, SearchPlan};
use proptest::prelude::*;

use super::{ResolvedBrief, read_named};
use crate::args::Cli;
use crate::desk::Desk;
use crate::kinds::searches;
use crate::study::resolved;

fn desk() -> Desk {
    let cli = Cli::try_parse_from(["inkpot", "games"]).expect("a verb");
    Desk::new(&cli.global, inkpot_games::registry())
}

fn read(text: &str, folder: &Path, desk: &Desk) -> ResolvedBrief {
    read_named(text, &folder.join("brief.toml"), desk).unwrap_or_else(|failure| panic!("{failure:?} in:\n{text}"))
}

/// Fills in all knobs, typed or default.
fn filled_in(mut brief: ResolvedBrief) -> ResolvedBrief {
    let fill = |entrant: &mut Entrant| entrant.given = entrant.knobs.clone();
    match &mut brief {
        ResolvedBrief::Study(plan) => plan.entrants.iter_mut().for_each(fill),
        ResolvedBrief::Search(SearchPlan::Tune(tune)) => {
            fill(&mut tune.opponent);
            tune.rungs.iter_mut().flat_map(|rung| &mut rung.players).for_each(|player| fill(&mut player.entrant));
        }
        ResolvedBrief::Search(SearchPlan::Fit(fit)) => {
            fill(&mut fit.standin);
            fit.opponents.iter_mut().for_each(fill);
        }
        ResolvedBrief::Search(SearchPlan::Evolve(evolve)) => {
            evolve.aim.opponents.iter_mut().chain(&mut evolve.aim.yardstick.opponents).for_each(fill);
        }
        ResolvedBrief::Search(SearchPlan::Train(train)) => {
            train.aim.opponents.iter_mut().chain(&mut train.aim.yardstick.opponents).for_each(fill);
        }
    }
    brief
}

/// Whether two briefs ask for the same, to the last bit.
fn same(text: &str) {
    let desk = desk();
    let folder = tempfile::tempdir().expect("a temporary folder");
    let folder = folder.path();
    fs::write(folder.join("people.csv"), include_str!("../../briefs/people.csv")).expect("the log is written");
    let parsed = read(text, folder, &desk);
    if let ResolvedBrief::Search(search) = &parsed {
        for (name, text) in searches(search).files() {
            fs::write(folder.join(name), text).expect("the file is written");
        }
    }
    let written = resolved(&parsed, &desk).expect("it can be written");
    let again = read(&written, folder, &desk);
    let (parsed, again) = (filled_in(parsed), filled_in(again));
    // As text, in which every number has all its digits: what a log does not say is no number, and equals itself.
    let debug_text = |brief: &ResolvedBrief| match brief {
        ResolvedBrief::Study(plan) => format!("{plan:?}"),
        ResolvedBrief::Search(search) => format!("{search:?}"),
    };
    assert_eq!(debug_text(&parsed), debug_text(&again), "{text}\nand\n{written}");
    assert_eq!(written, resolved(&read(&written, folder, &desk), &desk).expect("it can be written"));
}

/// A number of this range, short or with all its digits.
fn number(low: f64, high: f64) -> impl Strategy<Value = f64> {
    prop_oneof![low..high, (0..=100_u32).prop_map(move |i| (low + (high - low) * f64::from(i) / 100.0).min(high))]
}

/// Keys that any study may have.
fn ground() -> impl Strategy<Value = String> {
    (0..1_u64 << 53, number(0.5, 0.99), 1..9_i64, 2..60_u64).prop_map(|(seed, confidence, touches, blocks)| {
        format!(
            "game = \"piste\"\nseed = {seed}\nconfidence = {confidence:?}\nrules = {{ touches = {touches} }}\nmatches = {}\n",
            2 * blocks
        )
    })
}

fn entrants(skills: &[f64]) -> String {
    skills.iter().enumerate().fold(String::new(), |mut text, (place, skill)| {
        let _ = write!(text, "[[entrant]]\nname = \"e{place}\"\nagent = \"fencer\"\nknobs = {{ skill = {skill:?} }}\n");
        text
    })
}

fn target(within: f64, value: f64, weight: f64) -> String {
    let soft = "{ figure = \"length_s\", from = 20, soft = true }";
    format!("{{ figure = \"win_rate\", value = {value:?}, within = {within:?}, weight = {weight:?} }}, {soft}")
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 48, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn played_as_drafted(
        ground in ground(),
        skills in prop::collection::vec(number(0.0, 1.0), 2..6),
        (low, high) in (number(0.0, 0.4), number(0.6, 1.0)),
        points in 2..9_u32,
        within in number(0.01, 0.3),
        kind in 0..6_u32,
    ) {
        let single = entrants(&skills[..1]);
        let two = entrants(&skills[..2]);
        let field = entrants(&skills);
        same(&match kind {
            0 => format!("kind = \"batch\"\n{ground}{field}"),
            1 => format!(
                "kind = \"sweep\"\ntarget = {within:?}\n{ground}{single}[[entrant]]\nname = \"own\"\nagent = \"fencer\"\n[[vary]]\nof = \"own\"\nknob = \"skill\"\nfrom = {low:?}\nto = {high:?}\npoints = {points}\n"
            ),
            2 => format!("kind = \"compare\"\nequal_within = {within:?}\nuntil = \"clear\"\n{ground}{two}"),
            3 => format!("kind = \"tournament\"\nanchor = \"e1\"\n{ground}{field}"),
            4 => format!("kind = \"tournament\"\nformat = \"swiss\"\nrounds = 2\n{ground}{field}"),
            _ => format!("kind = \"tournament\"\nformat = \"knockout\"\n{ground}{field}"),
        });
    }

    #[test]
    fn searched_for(
        seed in 0..1_u64 << 53,
        weights in prop::collection::vec(number(0.1, 9.0), 1..7),
        (value, within, percent) in (number(0.2, 0.8), number(0.01, 0.1), number(-60.0, 60.0)),
        (low, high, aim) in (number(0.0, 0.4), number(0.6, 1.0), number(0.1, 0.3)),
        fit in any::<bool>(),
    ) {
        if fit {
            let shipped = include_str!("../../briefs/people.toml");
            let text = shipped.replace("seed = 5", &format!("seed = {seed}")).replace("from = 0.05", &format!("from = {:?}", aim / 2.0));
            same(&text);
        } else {
            let mut text = format!("kind = \"tune\"\ngame = \"piste\"\nseed = {seed}\nbudget = 900\nproof = 600\n[opponent]\nagent = \"fencer\"\n");
            let _ = write!(text, "[[free]]\nknob = \"skill\"\nfrom = {low:?}\nto = {high:?}\n[[rung]]\nname = \"one\"\n");
            let _ = write!(text, "opponent = {{ reaction = \"{percent:+} %\" }}\ntargets = [{}]\n", target(within, value, weights[0]));
            for weight in &weights {
                let _ = write!(text, "[[rung.mix]]\nweight = {weight:?}\nagent = \"regular\"\nknobs = {{ aim_noise = {aim:?} }}\n");
            }
            same(&text);
        }
    }
    #[test]
    fn evolved(
        seed in 0..1_u64 << 53,
        subject in 0..4_u32,
        method in 0..5_usize,
        (low, high) in (number(0.1, 0.4), number(0.6, 1.0)),
        (weight, missing) in (number(-9.0, 9.0).prop_filter("a term counts", |x| *x != 0.0), number(-300.0, 300.0)),
        in_turn in any::<bool>(),
    ) {
        let methods = ["genetic", "cma-es", "nes", "map-elites", "topology"];
        let method = if subject == 1 { methods[method] } else { methods[method.min(3)] };
        let game = if subject == 0 { "piste" } else { "regatta" };
        let mut text = format!("kind = \"evolve\"\ngame = \"{game}\"\nseed = {seed}\nin_turn = {in_turn}\n");
        let search = match subject {
            0 => format!("[subject]\nagent = \"fencer\"\nknobs = {{ skill = {high:?} }}\n[[free]]\nknob = \"gain\"\nfrom = {low:?}\nto = {high:?}\nscale = \"log\"\n[[opponent]]\nagent = \"heron\"\n"),
            1 => "[subject]\nagent = \"policy\"\n".to_string(),
            2 => "[subject]\nagent = \"policy\"\nlayers = [4, 3]\nactivation = \"relu\"\n[yardstick]\nlevel = \"reach\"\ntarget = 0.9\n".to_string(),
            _ => "[subject]\nagent = \"tape\"\nsteps = 9\nknobs = { hold = 20 }\n".to_string(),
        };
        text.push_str(&search);
        let _ = write!(text, "[method]\nname = \"{method}\"\npopulation = 6\n");
        if method == "map-elites" {
            let measures = if subject == 0 { ["gap_m", "length_s"] } else { ["tacks", "sailed_m"] };
            for measure in measures {
                let _ = write!(text, "[[niche]]\nmeasure = \"{measure}\"\nfrom = {low:?}\nto = {high:?}\n");
            }
        }
        let _ = write!(text, "[[term]]\nfigure = \"score\"\nweight = {weight:?}\nmissing = {missing:?}\n[[term]]\nfigure = \"cut_short\"\n");
        same(&text);
    }
}
