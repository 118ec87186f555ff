//! Matches that somebody holds, and what a stage keeps from match to match.

use inkpot_core::{
    AgentSheet, Casting, Game, GameEntry, KnobValue, Knobs, Level, LevelError, Outcome, Paint, Row, Rows, Seating,
    Setting, SettingError, Shape, Spot, Telling, tell,
};
use inkpot_games::registry;
use inkpot_games::sowing::{Board, Sowing};
use serde_json::json;

/// An agent kind or preset against the first kind of the game, in short matches.
fn setting(game: &dyn GameEntry, kind: &str) -> Setting {
    let sheet = game.sheet();
    let short = if sheet.name == "piste" { Knobs::default().with("touches", 1.0) } else { Knobs::default() };
    let cast = [kind, game.agents()[0].name.as_str()].into_iter().enumerate().map(|(entrant, name)| {
        let is_named =
            |sheet: &&AgentSheet| sheet.name == name || sheet.presets.iter().any(|preset| preset.name == name);
        let sheet = game.agents().iter().find(is_named).unwrap();
        let preset_knobs = sheet.presets.iter().find(|preset| preset.name == name).map(|preset| preset.knobs.clone());
        let knobs = preset_knobs.unwrap_or_default().resolve(&sheet.knobs).unwrap();
        Casting::new(entrant as u16, &sheet.name, knobs)
    });
    Setting {
        rules: short.resolve(&sheet.rules).unwrap(),
        level: Level::named(&sheet.levels[0].name, Knobs::default()).resolve(sheet).unwrap(),
        cast: cast.collect(),
        seating: Seating::rotated(2),
        study_seed: 9,
        pairing: 0,
    }
}

fn spots() -> impl Iterator<Item = Spot> {
    (0..8u64).map(|index| Spot {
        cell: 0,
        block: index / 2,
        rotation: (index % 2) as usize,
        match_index: index,
        leads: false,
    })
}

/// Rows without their times, by bits, so that NaN equals NaN.
fn plain(rows: &Rows) -> Vec<String> {
    without(rows, |_| {})
}

/// Rows without their times and what the search spent: looking inside costs states of its own.
fn unspent(rows: &Rows) -> Vec<String> {
    without(rows, |row| row.nodes = 0.0)
}

fn without(rows: &Rows, clear: impl Fn(&mut Row)) -> Vec<String> {
    let measures = |row: usize| rows.measures_of(row).iter().map(|x| x.to_bits()).collect::<Vec<_>>();
    let row = |(at, row): (usize, &Row)| {
        let mut row = row.clone();
        (row.decision_us, row.decision_times) = (0.0, None);
        clear(&mut row);
        format!("{row:?} {:?}", measures(at))
    };
    rows.rows.iter().enumerate().map(row).collect()
}

#[test]
fn what_a_stage_keeps_and_who_holds_the_match_have_no_bearing_on_its_rows() {
    let registry = registry();
    for game in registry.games() {
        let width = game.sheet().measures.len();
        let presets = game.agents().iter().flat_map(|sheet| sheet.presets.iter().map(|preset| &preset.name));
        for name in
            game.agents().iter().filter(|sheet| sheet.plays_by_default()).map(|sheet| &sheet.name).chain(presets)
        {
            let setting = setting(game, name);
            let (mut reused, mut fresh, mut held, mut reasons) =
                (Rows::new(width), Rows::new(width), Rows::new(width), Rows::new(width));
            let mut stage = game.stage(&setting).unwrap();
            for spot in spots() {
                stage.play(spot, &mut reused);
                game.stage(&setting).unwrap().play(spot, &mut fresh);
                let mut open = stage.open(spot);
                while open.turn() {}
                open.close(&mut held);
                tell(stage.open(spot), Telling::Choices, &mut |_| {}, &mut reasons);
            }
            assert_eq!(plain(&reused), plain(&fresh), "{name} of {}", game.sheet().name);
            assert_eq!(plain(&held), plain(&fresh), "{name} of {}", game.sheet().name);
            assert_eq!(unspent(&reasons), unspent(&fresh), "{name} of {}", game.sheet().name);
        }
    }
}

#[test]
fn a_holder_sees_what_a_seat_sees_and_chooses_in_its_place() {
    let registry = registry();
    let game = registry.game("sowing").unwrap();
    let stage = game.stage(&setting(game, "minimax")).unwrap();
    let mut held = stage.open_at(Some("4,4,4,4,4,4/4,4,4,4,4,4/0:0/south")).unwrap();
    assert_eq!((held.pending(), held.seats(), held.tick()), (vec![0], 2, 0));
    assert_eq!(held.view(0), json!("4,4,4,4,4,4/4,4,4,4,4,4/0:0/south"));
    assert_eq!(held.options(0).unwrap(), [1, 2, 3, 4, 5, 6].map(|pit| json!(pit)));
    assert_eq!(held.known_scores(0), [Some(0.0), Some(0.0)]);
    assert!(held.choose(0, json!("the third")).is_err(), "that is no pit");
    held.choose(0, json!(3)).unwrap();
    assert!(held.pending().is_empty(), "nobody else moves now");
    assert!(held.step());
    // The third pit's last seed falls into the store: south moves again.
    assert_eq!((held.tick(), held.scores(), held.pending()), (1, &[1.0, 0.0][..], vec![0]));
    let considered = held.consider(0);
    assert!(considered.thoughts.unwrap().options.iter().any(|option| Ok(&option.option) == considered.action.as_ref()));
    let mut rows = Rows::new(game.sheet().measures.len());
    held.close(&mut rows);
    assert_eq!((rows.rows[0].ending.as_ref(), rows.rows[0].cut_short), ("left", true));
}

#[test]
fn a_seat_that_acts_without_a_choice_is_at_fault() {
    let registry = registry();
    let game = registry.game("piste").unwrap();
    let mut held = game.stage(&setting(game, "fencer")).unwrap().open(Spot::default());
    assert_eq!(held.pending(), [0, 1]);
    held.choose(1, json!({ "throttle": 0.5, "blade": "none" })).unwrap();
    assert!(held.step());
    assert!(held.scene().is_some_and(|scene| !scene.shapes.is_empty()));
    let mut rows = Rows::new(game.sheet().measures.len());
    held.close(&mut rows);
    assert_eq!((rows.rows[0].faults, rows.rows[1].faults), (1, 0));
    assert_ne!(rows.rows[0].outcome, Outcome::Void);
}

#[test]
fn a_level_is_what_its_name_and_knobs_or_its_file_say_and_never_the_default_by_mistake() {
    let registry = registry();
    let piste = registry.game("piste").unwrap().sheet();
    assert!(matches!(
        Level::named("peer", Knobs::default()).resolve(piste),
        Err(LevelError::Unknown { nearest: Some(near), .. }) if near == "pier"
    ));
    let wide = Level::named("pier", Knobs::default().with("strip", 99.0));
    assert!(matches!(wide.resolve(piste), Err(LevelError::Knobs(_))));
    assert!(matches!(Level::file("x.txt", *b"x").resolve(piste), Err(LevelError::NoFiles { .. })));
    let short = Level::named("pier", Knobs::default().with("strip", 9.0)).resolve(piste).unwrap();
    assert_eq!((short.to_string(), short.name()), ("pier:strip=9".to_string(), "pier"));
    let plain = Level::named("pier", Knobs::default()).resolve(piste).unwrap();
    let said = Level::named("pier", Knobs::default().with("strip", 14.0)).resolve(piste).unwrap();
    assert!(plain.same_as(&said) && !plain.same_as(&short), "what counts is how it is laid");
    let moved = short.with("strip", KnobValue::Number(9.5)).resolve(piste).unwrap();
    assert_eq!(moved.to_string(), "pier:strip=9.5");
}

#[test]
fn a_level_file_of_sowing_is_where_every_match_begins_and_a_bad_one_is_told() {
    let registry = registry();
    let game = registry.game("sowing").unwrap();
    let with = |text: &str| {
        let mut setting = setting(game, "grabber");
        setting.rules.set("opening", KnobValue::Number(0.0));
        Setting { level: Level::file("late.txt", text.as_bytes()).resolve(game.sheet()).unwrap(), ..setting }
    };
    let late = "0,0,0,0,0,1/1,0,0,0,0,1/20:25/north";
    let mut held = game.stage(&with(&format!("{late}\n"))).unwrap().open(Spot::default());
    assert_eq!(held.view(1), json!(late));
    for (text, reason) in [
        ("4,4/4,4/0:0/south", "has 2 pits"),
        ("nonsense", "four parts"),
        ("0,0,0,0,0,0/0,0,0,0,0,0/24:24/over", "over at this position"),
    ] {
        let Err(SettingError::Level { level, reason: refusal, .. }) = game.stage(&with(text)) else {
            panic!("{text} is laid");
        };
        assert!(level == "late.txt" && refusal.contains(reason), "{text}: {refusal}");
    }
    let bytes = Setting { level: Level::file("late.txt", [0xff, 0xfe]), ..with(late) };
    assert!(matches!(game.stage(&bytes), Err(SettingError::Level { reason, .. }) if reason.contains("UTF-8")));
}

#[test]
fn a_level_is_written_down_and_read_back() {
    let registry = registry();
    let named = Level::named("jetty", Knobs::default().with("strip", 8.0));
    let named = named.resolve(registry.game("piste").unwrap().sheet()).unwrap();
    for level in [named, Level::file("map.bin", [0, 255, 7])] {
        let text = serde_json::to_string(&level).unwrap();
        assert_eq!(serde_json::from_str::<Level>(&text).unwrap(), level, "{text}");
    }
}

#[test]
fn an_opening_begins_at_any_board() {
    let board = Board::start(3, 2);
    let game = Sowing::opened(board, 0, &mut inkpot_core::Chance::from_seed(1));
    assert_eq!((game.board(), game.scores()), (&board, &[0.0, 0.0][..]));
}

#[test]
fn what_is_drawn_of_every_house_game_lies_in_its_window_and_every_seat_is_in_it() {
    for game in inkpot_games::registry().games() {
        assert!(game.has_scene(), "{}", game.sheet().name);
        let agent = if game.sheet().name == "regatta" { "tacker" } else { "drifter" };
        let stage = game.stage(&setting(game, agent)).unwrap();
        let mut held = stage.open(Spot::default());
        let mut seen = vec![false; held.seats()];
        for _ in 0..120 {
            let scene = held.scene().unwrap();
            let size = [0, 1].map(|axis| scene.high[axis] - scene.low[axis]);
            for shape in &scene.shapes {
                let at = match shape {
                    Shape::Line { from, .. } => *from,
                    Shape::Rectangle { low, .. } => *low,
                    Shape::Circle { centre, .. } | Shape::Ring { centre, .. } => *centre,
                    Shape::Area { corners, .. } => corners[0],
                    Shape::Text { at, .. } => *at,
                };
                let inside = |axis: usize| {
                    (scene.low[axis] - size[axis] / 4.0..=scene.high[axis] + size[axis] / 4.0).contains(&at[axis])
                };
                assert!(
                    inside(0) && inside(1),
                    "{}: {shape:?} in {:?} to {:?}",
                    game.sheet().name,
                    scene.low,
                    scene.high
                );
                if let Shape::Line { paint: Paint::Seat(seat), .. }
                | Shape::Area { paint: Paint::Seat(seat), .. }
                | Shape::Text { paint: Paint::Seat(seat), .. } = shape
                {
                    seen[*seat] = true;
                }
            }
            if !held.turn() {
                break;
            }
        }
        assert!(seen.iter().all(|seen| *seen), "{}: {seen:?}", game.sheet().name);
    }
}
