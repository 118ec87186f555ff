//! Matches that are decided from outside come out as those that an agent of the same mind plays.

use std::sync::Arc;

use inkpot_core::{
    Bytes, Casting, Chance, GameEntry, Intent, KnobValue, Knobs, LEARNER, Level, Rows, Seating, Setting, Spot,
};
use inkpot_games::registry;
use inkpot_learn::{Activation, Body, Dense, Gives, Memory, Network, Weights};

/// A setting of a game with the learner first.
fn setting(game: &dyn GameEntry, rules: &Knobs, cast: Vec<(&str, Knobs)>) -> Setting {
    let casting = |(place, (kind, knobs)): (usize, (&str, Knobs))| {
        Casting::new(place as u16, kind, knobs.resolve(&game.agent(kind).unwrap().knobs).unwrap())
    };
    Setting {
        rules: rules.resolve(&game.sheet().rules).unwrap(),
        level: Level::named(&game.sheet().levels[0].name, Knobs::default()).resolve(game.sheet()).unwrap(),
        seating: Seating::rotated(cast.len()),
        cast: cast.into_iter().enumerate().map(casting).collect(),
        study_seed: 7,
        pairing: 0,
    }
}

/// A network for a game, and the knobs of the policy that plays by it.
fn policy(game: &dyn GameEntry, rules: &Knobs, every: u32) -> (Dense, Knobs) {
    let features = game.features(&rules.resolve(&game.sheet().rules).unwrap()).unwrap();
    let names = |names: Vec<&str>| names.into_iter().map(String::from).collect::<Vec<_>>();
    let observed = features.observation.iter().map(|feature| feature.name.clone()).collect::<Vec<_>>();
    let actions = names(features.actions.names());
    let network = Dense::drawn(vec![observed.len(), 8, actions.len()], Activation::Tanh, &mut Chance::from_seed(3));
    let body = Body::Network(Network::Dense(network.clone()));
    let bytes = Weights { observation: observed, actions, gives: Gives::Scores, body, earlier: Vec::new() }.to_bytes();
    let mut knobs = Knobs::default().with("decide_every", f64::from(every));
    knobs.set("file", KnobValue::File { file: "net".into(), bytes: Bytes(Arc::from(bytes)) });
    (network, knobs)
}

fn decided(outputs: &[f32], discrete: bool, clamped: &mut Vec<f32>) -> Option<usize> {
    clamped.clear();
    clamped.extend(outputs.iter().map(|x| x.clamp(-1.0, 1.0)));
    discrete
        .then(|| (1..outputs.len()).fold(0, |best, place| if outputs[place] > outputs[best] { place } else { best }))
}

#[test]
fn a_network_from_outside_plays_as_the_policy_does() {
    for (name, rules, others, every) in [
        ("regatta", Knobs::default(), vec![], 1),
        ("regatta", Knobs::default(), vec![], 4),
        ("piste", Knobs::default().with("touches", 2.0), vec![("fencer", Knobs::default())], 3),
    ] {
        let registry = registry();
        let game = registry.game(name).unwrap();
        let (network, knobs) = policy(game, &rules, every);
        let cast: Vec<_> = std::iter::once(("policy", knobs)).chain(others).collect();
        let setting = setting(game, &rules, cast);
        let discrete = game.features(&setting.rules).unwrap().actions.is_discrete();
        let (mut stage, mut lessons) = (game.stage(&setting).unwrap(), game.lessons(&setting).unwrap());
        let (mut memory, mut seen, mut clamped) = (Memory::default(), Vec::new(), Vec::new());
        for rotation in 0..setting.cast.len() {
            let spot = Spot { block: 3, rotation, ..Spot::default() };
            let (mut played, mut learned) =
                (Rows::new(game.sheet().measures.len()), Rows::new(game.sheet().measures.len()));
            stage.play(spot, &mut played);
            lessons.begin(spot);
            while !lessons.is_over() {
                lessons.observe(&mut seen);
                let option = decided(network.forward(&seen, &mut memory), discrete, &mut clamped);
                lessons.act(option.map_or(Intent::Values(&clamped), Intent::Option), every);
            }
            lessons.rows(&mut learned);
            let facts = |rows: &Rows| -> Vec<_> {
                rows.rows
                    .iter()
                    .map(|row| (row.score, row.placement, row.ticks, row.ending.clone(), row.faults))
                    .collect()
            };
            assert_eq!(facts(&played), facts(&learned), "{name} every {every}");
            let bits = |rows: &Rows| rows.measures.iter().map(|x| x.to_bits()).collect::<Vec<_>>();
            assert_eq!(bits(&played), bits(&learned), "{name} every {every}");
        }
    }
}

/// Both sides are decided from outside, and every option that is listed can be taken.
#[test]
fn both_sides_of_a_game_of_turns_can_be_decided_from_outside() {
    for (name, rules) in [("berths", Knobs::default()), ("sowing", Knobs::default().with("pits", 3.0))] {
        let registry = registry();
        let game = registry.game(name).unwrap();
        assert!(game.files_positions());
        let mut setting = setting(game, &rules, vec![("drifter", Knobs::default()), ("drifter", Knobs::default())]);
        setting.cast.iter_mut().for_each(|member| member.entrant = LEARNER);
        let mut lessons = game.lessons(&setting).unwrap();
        let (mut rows, mut chance) = (Rows::new(game.sheet().measures.len()), Chance::from_seed(5));
        for block in 0..20 {
            lessons.begin(Spot { block, ..Spot::default() });
            let mut seats = [0; 2];
            while !lessons.is_over() {
                seats[lessons.seat()] += 1;
                let position = lessons.position().expect("it is not over");
                assert!(position.options > 0 && lessons.position().as_ref() == Some(&position));
                lessons.take(chance.below(position.options));
            }
            assert_eq!(lessons.position(), None);
            lessons.rows(&mut rows);
            assert!(rows.rows.iter().all(|row| row.faults == 0 && row.incident.is_none()), "{:?}", rows.rows);
            assert_eq!(rows.rows[0].ticks, seats[0] + seats[1]);
            assert!(seats[0] > 0 && seats[1] > 0);
        }
    }
}
