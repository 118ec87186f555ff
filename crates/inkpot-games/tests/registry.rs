//! Walks the registry: every description is complete and every agent can be made and plays without a fault.

use std::collections::BTreeSet;

use inkpot_core::{Casting, Knobs, Level, Outcome, Rows, Setting, Spot};
use inkpot_games::registry;

#[test]
fn names_are_unique_and_every_line_of_help_is_there() {
    let registry = registry();
    for game in registry.games() {
        let sheet = game.sheet();
        let mut names = BTreeSet::new();
        for agent in game.agents() {
            assert!(names.insert(agent.name.clone()) && !agent.help.is_empty(), "{}", agent.name);
            for preset in &agent.presets {
                assert!(names.insert(preset.name.clone()) && !preset.help.is_empty(), "{}", preset.name);
            }
        }
        for (what, knobs) in
            std::iter::once((&sheet.name, &sheet.rules)).chain(game.agents().iter().map(|a| (&a.name, &a.knobs)))
        {
            let mut names = BTreeSet::new();
            for knob in knobs {
                assert!(names.insert(&knob.name) && !knob.help.is_empty(), "{what}: {}", knob.name);
                assert!(knob.check(&knob.default_value()).is_ok(), "{what}: default of {}", knob.name);
                if let Some(master) = knob.master() {
                    assert!(names.contains(&master.to_string()), "{what}: {} stands before {master}", knob.name);
                }
            }
        }
        let measures: BTreeSet<_> = sheet.measures.iter().map(|measure| &measure.name).collect();
        assert_eq!(measures.len(), sheet.measures.len());
        assert!(sheet.measures.iter().all(|measure| !measure.help.is_empty() && !measure.label.is_empty()));
    }
}

#[test]
fn followers_stay_where_their_curves_lead_without_being_cut_off() {
    let registry = registry();
    for game in registry.games() {
        for agent in game.agents() {
            for knob in &agent.knobs {
                let Some(master) = agent.knobs.iter().find(|other| Some(other.name.as_str()) == knob.master()) else {
                    continue;
                };
                let (low, high) = master.bounds().expect("a master is a number");
                for at in [low, high] {
                    let value = knob.followed(at).and_then(|value| value.number()).expect("a follower is a number");
                    let (least, most) = knob.bounds().expect("a follower is a number");
                    assert!(least <= value && value <= most, "{} at {at}: {value}", knob.name);
                }
            }
        }
    }
}

#[test]
fn every_agent_and_preset_on_every_level_plays_without_a_fault() {
    let registry = registry();
    for game in registry.games() {
        let sheet = game.sheet();
        let rules = Knobs::default().resolve(&sheet.rules).unwrap();
        let opponent = &game.agents()[0];
        let cast = |entrant, kind: &str, knobs| Casting { entrant, kind: kind.into(), knobs };
        for agent in game.agents() {
            let plain = std::iter::once(Knobs::default());
            for given in plain.chain(agent.presets.iter().map(|preset| preset.knobs.clone())) {
                for level in &sheet.levels {
                    let setting = Setting {
                        rules: rules.clone(),
                        level: Level::named(&level.name, Knobs::default()).resolve(sheet).unwrap(),
                        cast: vec![
                            cast(0, &agent.name, given.resolve(&agent.knobs).unwrap()),
                            cast(1, &opponent.name, Knobs::default().resolve(&opponent.knobs).unwrap()),
                        ],
                        series: 1,
                        study_seed: 3,
                        pairing: 0,
                    };
                    let mut stage = game.stage(&setting).unwrap();
                    let mut rows = Rows::new(sheet.measures.len());
                    for rotation in 0..stage.rotations() {
                        stage.play(
                            Spot { cell: 0, block: 0, rotation, match_index: rotation as u64, leads: false },
                            &mut rows,
                        );
                    }
                    assert_eq!(rows.measures.len(), rows.rows.len() * sheet.measures.len());
                    for row in &rows.rows {
                        assert_eq!((row.faults, &row.incident), (0, &None), "{} {given:?}", agent.name);
                        assert_ne!(row.outcome, Outcome::Void);
                    }
                }
            }
        }
    }
}
