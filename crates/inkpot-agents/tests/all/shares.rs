//! Agents that say with which chance they take an option take it as often.

use inkpot_agents::{drifter, minimax, playouts, treesearch};
use inkpot_core::{AgentKind, Chance, Game, Knobs, Laying, Level, Options, Person, Sight};

use crate::toys::{Posts, knobs_of, set};

const DRAWS: u64 = 4_000;
/// Standard errors by which a share of the draws may lie off: far enough for chance, of some thirty shares.
const ERRORS: f64 = 4.5;

/// The row of five posts without its second: it has several best options, and worse ones.
fn state() -> Posts {
    let mut state = Posts::new(5);
    state.standing[1] = false;
    state
}

/// The chances that an agent of this kind gives, if it does, and how often it takes each option in many matches.
fn said_and_done(kind: &AgentKind<Posts>, given: &Knobs) -> (Option<Vec<f64>>, Vec<f64>) {
    let (rules, level) = (Knobs::default(), Level::named("table", Knobs::default()));
    let factory =
        kind.made(&knobs_of(kind, given), &Laying { rules: &rules, level: &level, seats: 2, features: None }).unwrap();
    let (state, mut options) = (state(), Vec::new());
    state.options(0, &mut options);
    let agent = |seed: u64| {
        let chance = Chance::named(7, &[seed]);
        let mut agent = factory(Person::new(chance.clone())).unwrap();
        agent.begin(0, chance);
        agent
    };
    let said = agent(0).shares(&Sight::new(&state, 0, 0), &options);
    let mut done = vec![0.0; options.len()];
    for seed in 1..=DRAWS {
        let chosen = agent(seed).choose(&Sight::new(&state, 0, 0)).unwrap();
        done[options.iter().position(|option| *option == chosen).unwrap()] += 1.0 / DRAWS as f64;
    }
    (said, done)
}

#[test]
fn an_agent_takes_each_option_as_often_as_it_says() {
    assert!(state().seats() == 2);
    let weights = || minimax::<Posts>(&[]);
    let cases = [
        ("drifter", drifter(1), Knobs::default()),
        ("ties by chance", weights(), set("depth", 8.0)),
        ("the first of ties", weights(), set("depth", 8.0).with_word("ties", "first")),
        ("slips", weights(), set("depth", 8.0).with("slip", 0.4)),
        ("softened", weights(), set("depth", 2.0).with("temper", 0.7)),
        ("softened and slipping", weights(), set("depth", 2.0).with("temper", 0.7).with("slip", 0.2)),
    ];
    for (name, kind, given) in cases {
        let (said, done) = said_and_done(&kind, &given);
        let said = said.unwrap_or_else(|| panic!("{name} knows its chances"));
        assert!((said.iter().sum::<f64>() - 1.0).abs() < 1e-9, "{name}: {said:?}");
        for (said, done) in said.iter().zip(&done) {
            let error = (said * (1.0 - said) / DRAWS as f64).sqrt();
            assert!((said - done).abs() <= ERRORS * error + 1e-9, "{name}: {said} and {done}");
        }
    }
}

#[test]
fn agents_that_choose_by_more_than_the_position_say_nothing() {
    // One weighs its options by random play, softened or not; one thinks by the clock; one holds on to its pick.
    let softened = set("iterations", 30.0).with("temper", 1.0);
    assert_eq!(said_and_done(&treesearch(&[]), &softened).0, None);
    assert_eq!(said_and_done(&minimax(&[]), &set("millis", 1.0)).0, None);
    assert_eq!(said_and_done(&playouts(&[]), &Knobs::default()).0, None);
    assert_eq!(said_and_done(&drifter(4), &Knobs::default()).0, None);
}
