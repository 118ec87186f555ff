//! Berths against a second, plain way of playing and solving it.

use std::collections::HashMap;

use inkpot_core::{
    Advance, Casting, Chance, Choices, Explained, Game, Halt, Keyed, Knobs, LEARNER, Level, Measured, Noted, Options,
    Response, ResponseRequest, Seating, Setting,
};
use inkpot_games::berths::{Basin, Berths};
use inkpot_games::registry;
use proptest::prelude::*;

/// A basin as rows of letters, and who moves. Nothing shared with the game's own.
#[derive(Clone, PartialEq, Eq, Hash, Debug)]
struct Plain {
    rows: Vec<Vec<char>>,
    side: usize,
}

/// Column and row.
type Place = (usize, usize);

impl Plain {
    fn empty(width: usize, length: usize) -> Self {
        Self { rows: vec![vec!['.'; width]; length], side: 0 }
    }

    fn is_free(&self, (column, row): Place) -> bool {
        self.rows.get(row).and_then(|row| row.get(column)) == Some(&'.')
    }

    fn boat(side: usize, (column, row): Place) -> [Place; 2] {
        [(column, row), if side == 0 { (column + 1, row) } else { (column, row + 1) }]
    }

    fn moves(&self, side: usize) -> Vec<Place> {
        let all = (0..self.rows.len()).flat_map(|row| (0..self.rows[0].len()).map(move |column| (column, row)));
        all.filter(|&place| Self::boat(side, place).iter().all(|&berth| self.is_free(berth))).collect()
    }

    /// The moves of a side whose berths the other cannot use.
    fn safe(&self, side: usize) -> usize {
        let others: Vec<Place> =
            self.moves(1 - side).into_iter().flat_map(|place| Self::boat(1 - side, place)).collect();
        let safe = |place: &Place| Self::boat(side, *place).iter().all(|berth| !others.contains(berth));
        self.moves(side).iter().filter(|place| safe(place)).count()
    }

    fn play(&self, place: Place) -> Self {
        let mut next = self.clone();
        for (column, row) in Self::boat(self.side, place) {
            next.rows[row][column] = '#';
        }
        next.side = 1 - self.side;
        next
    }

    fn text(&self) -> String {
        let rows: Vec<String> = self.rows.iter().map(|row| row.iter().collect()).collect();
        format!("{}/{}", rows.join("/"), ["south", "north"][self.side])
    }

    /// Whether who is to move wins with best play.
    fn is_won(&self, known: &mut HashMap<(Vec<bool>, usize), bool>) -> bool {
        let taken = self.rows.iter().flatten().map(|berth| *berth == '.').collect();
        let key = (taken, self.side);
        if let Some(won) = known.get(&key) {
            return *won;
        }
        let won = self.moves(self.side).into_iter().any(|place| !self.play(place).is_won(known));
        known.insert(key, won);
        won
    }
}

fn word((column, row): Place) -> String {
    format!("{}{}", char::from(b'a' + column as u8), row + 1)
}

/// What minimax weighs when it looks to the end.
fn solved(width: usize, length: usize, position: Option<&str>) -> Explained {
    let registry = registry();
    let game = registry.game("berths").unwrap();
    let rules = Knobs::default().with("width", width as f64).with("length", length as f64);
    let knobs = Knobs::default().with("depth", 64.0).resolve(&game.agent("minimax").unwrap().knobs).unwrap();
    let setting = Setting {
        rules: rules.resolve(&game.sheet().rules).unwrap(),
        level: Level::named("basin", Knobs::default()),
        cast: Casting::everywhere("minimax", &knobs, 2),
        seating: Seating::rotated(2),
        study_seed: 1,
        pairing: 0,
    };
    game.explain(&setting, position, None, 1).unwrap()
}

#[test]
fn who_wins_an_empty_basin_agrees_with_a_plain_solver() {
    for (width, length) in
        [(2, 2), (2, 3), (3, 2), (2, 5), (5, 2), (3, 3), (4, 3), (3, 4), (4, 4), (5, 3), (2, 8), (8, 2)]
    {
        let thoughts = solved(width, length, None).thoughts.unwrap();
        assert!(thoughts.spent.exact, "{width} x {length}");
        let won = Plain::empty(width, length).is_won(&mut HashMap::new());
        assert_eq!(thoughts.options[0].value, if won { 1.0 } else { -1.0 }, "{width} x {length}");
    }
}

/// A basin some random moves after an empty one.
fn basins() -> impl Strategy<Value = Plain> {
    (2usize..=8, 2usize..=8, prop::collection::vec(0usize..100, 0..24)).prop_map(|(width, length, picks)| {
        picks.into_iter().fold(Plain::empty(width, length), |basin, pick| match basin.moves(basin.side).as_slice() {
            [] => basin,
            moves => basin.play(moves[pick % moves.len()]),
        })
    })
}

/// The game's state of a plain basin.
fn state(plain: &Plain) -> Berths {
    Berths::start(plain.rows[0].len() as u8, plain.rows.len() as u8).read_note(&plain.text()).unwrap()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(128))]

    #[test]
    fn every_move_leads_where_the_plain_rules_lead(plain in basins()) {
        let game = state(&plain);
        prop_assert_eq!(game.note(), plain.text());
        let moves = plain.moves(plain.side);
        prop_assert_eq!(game.verdict().is_some(), moves.is_empty());
        prop_assert_eq!(game.scores().iter().sum::<f64>(), f64::from(u8::from(moves.is_empty())));
        if moves.is_empty() {
            prop_assert_eq!(game.scores()[1 - plain.side], 1.0);
        }
        let mut options = Vec::new();
        game.options(plain.side, &mut options);
        let words = |places: Vec<Place>| places.into_iter().map(word).collect::<Vec<_>>();
        prop_assert_eq!(options.iter().map(ToString::to_string).collect::<Vec<_>>(), words(moves.clone()));
        for (option, place) in options.into_iter().zip(moves) {
            let mut next = game;
            let mut choices = Choices::none(2);
            choices.set(plain.side, option);
            prop_assert_eq!(next.advance(&choices, &mut Chance::from_seed(0)), Advance::Fine);
            prop_assert_eq!(next.note(), plain.play(place).text());
        }
    }

    #[test]
    fn options_and_safe_ones_are_counted_as_the_plain_rules_count_them(plain in basins()) {
        let game = state(&plain);
        for seat in 0..2 {
            let mut figures = Vec::new();
            game.measures(seat, &mut figures);
            prop_assert_eq!(figures[0], plain.moves(seat).len() as f64);
            prop_assert_eq!(figures[1], plain.safe(seat) as f64);
        }
    }

    #[test]
    fn a_mirrored_basin_is_the_plain_one_mirrored(plain in basins()) {
        let game = state(&plain);
        let mut across = plain.clone();
        across.rows.iter_mut().for_each(|row| row.reverse());
        let mut down = plain.clone();
        down.rows.reverse();
        let mut both = across.clone();
        both.rows.reverse();
        for (symmetry, mirrored) in [plain, across, down, both].iter().enumerate() {
            prop_assert_eq!(game.turned(symmetry).note(), mirrored.text());
        }
    }

    #[test]
    fn no_opening_ends_the_match(width in 2u8..=8, length in 2u8..=8, plies in 0u32..=6, seed in 0u64..1000) {
        let game = Berths::opened(Basin::empty(width, length), plies, &mut Chance::from_seed(seed));
        prop_assert!(game.verdict().is_none());
        let note = game.note();
        let rows = note.rsplit_once('/').unwrap().0;
        let taken = rows.chars().filter(|berth| *berth == '#').count();
        prop_assert!(taken <= 2 * plies as usize && taken % 2 == 0);
    }
}

#[test]
fn every_option_is_won_or_lost_as_the_plain_solver_says() {
    let mut known = HashMap::new();
    let plain = Plain::empty(4, 4).play((1, 1)).play((0, 2));
    let explained = solved(4, 4, Some(&plain.text()));
    let options = explained.thoughts.unwrap().options;
    assert_eq!(options.len(), plain.moves(0).len());
    for place in plain.moves(0) {
        let option = options.iter().find(|option| option.option == word(place)).unwrap();
        let won = !plain.play(place).is_won(&mut known);
        assert!(option.bound && option.value < 1.0 || option.value == if won { 1.0 } else { -1.0 }, "{}", word(place));
    }
}

#[test]
fn a_text_that_is_no_basin_says_how_to_write_one() {
    let start = Berths::start(3, 2);
    for (text, says) in [
        ("", "`` is not a side that moves"),
        ("...\n/.../west", "`west` is not a side that moves"),
        (
            "..../.../south",
            "the basin is 4 x 2, but the rules say 3 x 2; set the rules to fit, as in `--rules width=4,length=2`",
        ),
        (".../../south", "row 2 has 2 berths, not 3"),
        (".x./.../south", "`x` in row 1 is not a berth"),
    ] {
        let error = start.read_note(text).unwrap_err();
        assert!(error.starts_with(says), "{text:?}: {error}");
    }
}

/// The basin of a position text.
fn read(text: &str) -> Plain {
    let (rows, side) = text.rsplit_once('/').unwrap();
    Plain { rows: rows.split('/').map(|row| row.chars().collect()).collect(), side: usize::from(side == "north") }
}

/// What is best against an agent with these knobs in a basin.
fn answered(size: (usize, usize), agent: &str, knobs: &Knobs, draws: u64) -> Response {
    let registry = registry();
    let game = registry.game("berths").unwrap();
    let knobs = knobs.resolve(&game.agent(agent).unwrap().knobs).unwrap();
    let learner = Casting::new(LEARNER, "policy", Knobs::default());
    let rules = Knobs::default().with("width", size.0 as f64).with("length", size.1 as f64);
    let setting = Setting {
        rules: rules.resolve(&game.sheet().rules).unwrap(),
        level: Level::named("basin", Knobs::default()),
        cast: vec![learner, Casting::new(1, agent, knobs)],
        seating: Seating::rotated(2),
        study_seed: 1,
        pairing: 0,
    };
    let request = ResponseRequest { draws, most_positions: 100_000, seed: 1, halt: Halt::never() };
    game.best_response(&setting, &request).unwrap()
}

#[test]
fn what_is_best_against_one_who_never_errs_is_what_the_plain_solver_says() {
    let mut known = HashMap::new();
    let response = answered((4, 4), "minimax", &Knobs::default().with("depth", 64.0), 64);
    let south = Plain::empty(4, 4).is_won(&mut known);
    assert_eq!(response.start, [f64::from(u8::from(south)), f64::from(u8::from(!south))]);
    assert!(response.rows.len() > 2000);
    for (position, values) in &response.rows {
        let plain = read(position);
        let won = plain.moves(plain.side).into_iter().map(|place| !plain.play(place).is_won(&mut known));
        let expected: Vec<f64> = won.map(|won| f64::from(u8::from(won))).collect();
        assert_eq!(*values, expected, "{position}");
    }
}

/// What the side `own` gets with best play from a basin on, against one who draws its moves evenly.
fn against_chance(plain: &Plain, mover: usize, known: &mut HashMap<String, f64>) -> f64 {
    let moves = plain.moves(plain.side);
    if moves.is_empty() {
        return f64::from(u8::from(plain.side != mover));
    }
    if let Some(points) = known.get(&plain.text()) {
        return *points;
    }
    let each: Vec<f64> = moves.iter().map(|place| against_chance(&plain.play(*place), mover, known)).collect();
    let points = if plain.side == mover {
        each.iter().copied().fold(0.0, f64::max)
    } else {
        each.iter().sum::<f64>() / each.len() as f64
    };
    known.insert(plain.text(), points);
    points
}

#[test]
fn what_is_best_against_one_who_draws_and_says_its_chances_is_exact() {
    let response = answered((4, 3), "drifter", &Knobs::default(), 1);
    for mover in 0..2 {
        let mut known = HashMap::new();
        let start = against_chance(&Plain::empty(4, 3), mover, &mut known);
        assert!((response.start[mover] - start).abs() < 1e-12, "{mover}: {} and {start}", response.start[mover]);
        for (position, values) in response.rows.iter().filter(|row| read(row.0).side == mover) {
            let plain = read(position);
            for (value, place) in values.iter().zip(plain.moves(mover)) {
                let expected = against_chance(&plain.play(place), mover, &mut known);
                assert!((value - expected).abs() < 1e-12, "{position}: {value} and {expected}");
            }
        }
    }
    assert!(response.varied > 0 && response.varied < response.asked && response.sampled == 0);
}

#[test]
fn what_is_best_against_one_who_does_not_say_its_chances_is_as_good_as_its_draws() {
    // It grows its tree by chance, and even asked a thousand times it may have more to show.
    let searching = Knobs::default().with("iterations", 3.0);
    let sampled = answered((3, 2), "treesearch", &searching, 200);
    assert!(sampled.sampled == sampled.asked && sampled.varied > 0);
    let certain = Knobs::default().with("depth", 64.0).with_word("ties", "first");
    assert_eq!(answered((3, 2), "minimax", &certain, 1).sampled, 0);
}
