//! Games and agents that go wrong in every way: each is told, none takes the process with it.

use inkpot_core::{
    Acting, Advance, Agent, AgentKind, Casting, Chance, Choices, Ending, Entry, Game, GameEntry, GameFactory,
    GameSheet, GaveUp, Halt, Knob, KnobValue, Knobs, Laying, Level, LevelSheet, Measured, Outcome, Rows, Seat, SeatSet,
    Seating, Setting, SettingError, Sight, Spot, Stage, Verdict, quiet_panics_in_matches,
};
use serde::ser::Error;
use serde::{Serialize, Serializer};

/// Two seats choose for ten ticks; what goes wrong, and when, the rule `wrong` says.
struct Rickety {
    wrong: String,
    ticks: u32,
    scores: Vec<f64>,
}

/// A view that serialises if true, and fails to if false.
struct Glance(bool);

impl Serialize for Glance {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        if self.0 { serializer.serialize_bool(true) } else { Err(S::Error::custom("it is too strange")) }
    }
}

impl Game for Rickety {
    type Action = u8;
    type View = Glance;

    fn seats(&self) -> usize {
        if self.wrong == "seats" { 3 } else { 2 }
    }

    fn acting(&self) -> Acting<'_> {
        match (self.ticks, self.wrong.as_str()) {
            (10.., _) => Acting::Nobody,
            (5, "acting") => Acting::One(7),
            (5, "acting panics") => panic!("nobody knows who acts"),
            _ => Acting::All,
        }
    }

    /// What went wrong while somebody looked.
    fn fault(&self) -> Option<String> {
        (self.wrong == "fault" && self.ticks == 5).then(|| "the line is dead".into())
    }

    fn view(&self, _seat: Seat) -> Glance {
        Glance(self.wrong != "view")
    }

    fn advance(&mut self, _choices: &Choices<u8>, chance: &mut Chance) -> Advance {
        self.ticks += 1;
        self.scores[chance.below(2)] += 1.0;
        match (self.ticks, self.wrong.as_str()) {
            (5, "scores" | "forfeit without scores") => self.scores[1] = f64::NAN,
            (5, "endless") => self.ticks = 4,
            (5, "faults") => {
                let mut seats = SeatSet::default();
                seats.insert(9);
                return Advance::Faults(seats);
            }
            _ => {}
        }
        Advance::Fine
    }

    fn scores(&self) -> &[f64] {
        assert!(!(self.wrong == "scores panic" && self.ticks == 5), "the board is gone");
        if self.wrong == "scores of one" && self.ticks > 5 { &self.scores[..1] } else { &self.scores }
    }

    fn verdict(&self) -> Option<Verdict> {
        let placement = match self.wrong.as_str() {
            "verdict" => return None,
            "places" => vec![1],
            "place 0" => vec![0, 1],
            "place 3" => vec![1, 3],
            "nobody first" => vec![2, 2],
            _ => return Some(Verdict::by_score(&self.scores, Ending::Decided("time".into()))),
        };
        Some(Verdict { placement, ending: Ending::Decided("time".into()) })
    }
}

impl Measured for Rickety {
    fn measures(&self, _seat: Seat, _into: &mut Vec<f64>) {}
}

impl Drop for Rickety {
    fn drop(&mut self) {
        assert!(self.wrong != "drop", "it does not go");
    }
}

/// Goes wrong where its knob says.
struct Clumsy(String);

impl Agent<Rickety> for Clumsy {
    fn begin(&mut self, _seat: Seat, _chance: Chance) {
        assert!(self.0 != "begin", "it cannot begin");
    }

    fn choose(&mut self, sight: &Sight<'_, Rickety>) -> Result<u8, GaveUp> {
        assert!(!(self.0 == "choose" && sight.tick() == 6), "it cannot choose");
        Ok(0)
    }
}

fn entry() -> Entry<Rickety> {
    let words = [
        "nothing",
        "seats",
        "view",
        "fault",
        "acting",
        "acting panics",
        "scores",
        "scores panic",
        "scores of one",
        "verdict",
        "places",
        "place 0",
        "place 3",
        "nobody first",
        "faults",
        "drop",
        "lay",
        "start",
        "forfeit without scores",
        "endless",
    ];
    let sheet = GameSheet {
        name: "rickety".into(),
        help: "falls apart".into(),
        seats: 2..=2,
        ticks_per_second: None,
        rules: vec![Knob::choice("wrong", &words)],
        levels: vec![LevelSheet::new("yard", "the only one")],
        level_file: None,
        without_chance: None,
        measures: Vec::new(),
    };
    let kind = AgentKind::new("clumsy", "goes wrong")
        .knob(Knob::choice("wrong", &["nothing", "begin", "choose", "make", "prepare"]))
        .factory(|knobs| {
            let wrong = knobs.word("wrong").to_string();
            assert!(wrong != "prepare", "it cannot be prepared");
            Box::new(move |_| {
                assert!(wrong != "make", "it cannot be made");
                Box::new(Clumsy(wrong.clone()))
            })
        });
    let lay = |laying: &Laying| {
        let wrong = laying.rules.word("wrong").to_string();
        assert!(wrong != "lay", "there is no ground");
        let make = move |_: &mut Chance| {
            assert!(wrong != "start", "it does not start");
            Rickety { wrong: wrong.clone(), ticks: 0, scores: vec![0.0; 2] }
        };
        let make: GameFactory<Rickety> = Box::new(make);
        Ok(make)
    };
    Entry::new(sheet, lay).agent(kind)
}

fn setting(game: &str, agents: [&str; 2]) -> Setting {
    let wrong = |word: &str| -> Knobs { [("wrong".to_string(), KnobValue::Word(word.into()))].into_iter().collect() };
    let casting = |(place, word): (usize, &str)| Casting::new(place as u16, "clumsy", wrong(word));
    Setting {
        rules: wrong(game),
        level: Level::named("yard", Knobs::default()),
        cast: agents.into_iter().enumerate().map(casting).collect(),
        seating: Seating::rotated(2),
        study_seed: 3,
        pairing: 0,
    }
}

fn staged(game: &str, agents: [&str; 2]) -> Box<dyn Stage> {
    quiet_panics_in_matches();
    entry().stage(&setting(game, agents)).expect("a setting of the game")
}

fn rows() -> Rows {
    Rows::new(entry().sheet().measures.len())
}

/// A match, played and held: both come to the same rows.
fn played(game: &str, agents: [&str; 2]) -> Rows {
    let mut stage = staged(game, agents);
    let (mut played, mut held) = (rows(), rows());
    stage.play(Spot::default(), &mut played);
    let mut open = stage.open(Spot::default());
    while open.turn() {}
    // Asking what a broken game is at breaks nobody else.
    let _ = (open.scores().len(), open.pending(), open.options(0), open.note());
    open.close(&mut held);
    for (row, other) in played.rows.iter().zip(&held.rows) {
        assert_eq!(
            (row.outcome, &row.incident, row.placement),
            (other.outcome, &other.incident, other.placement),
            "{game}"
        );
    }
    played
}

#[test]
fn a_view_that_cannot_be_written_ends_the_match_and_says_why() {
    let mut open = staged("view", ["nothing"; 2]).open(Spot::default());
    let message = open.consider(1).action.expect_err("it has no view");
    assert_eq!(message, "failed: a view cannot be written as JSON: it is too strange");
    assert!(open.pending().is_empty(), "the match is over");
    let mut ended = rows();
    open.close(&mut ended);
    assert_eq!(ended.rows[0].outcome, Outcome::Void);
}

#[test]
fn what_a_game_does_wrong_makes_the_match_void_and_is_told() {
    for (wrong, message) in [
        ("seats", "the game has 3 seats and 2 scores, and the match has 2 entrants"),
        ("acting", "it lets seat 7 act, and there are 2 seats"),
        ("acting panics", "nobody knows who acts"),
        ("fault", "the game failed: the line is dead; tick 5"),
        ("scores", "its scores are ["),
        ("scores panic", "the board is gone"),
        ("verdict", "nobody acts, yet the game gives no verdict"),
        ("places", "its verdict gives the places [1] to 2 seats"),
        ("place 0", "its verdict gives the places [0, 1] to 2 seats"),
        ("place 3", "its verdict gives the places [1, 3] to 2 seats"),
        ("nobody first", "its verdict gives nobody the first place: [2, 2]"),
        ("faults", "it finds faults of seats beyond its 2"),
        ("start", "it does not start"),
    ] {
        let rows = played(wrong, ["nothing", "nothing"]);
        assert_eq!(rows.rows.len(), 2, "{wrong}");
        for row in &rows.rows {
            assert_eq!((row.outcome, row.placement), (Outcome::Void, 0), "{wrong}");
            assert!(row.incident.as_ref().is_some_and(|text| text.contains(message)), "{wrong}: {:?}", row.incident);
        }
    }
    assert_eq!(played("scores of one", ["nothing", "nothing"]).rows[0].outcome, Outcome::Void);
    assert!(played("nothing", ["nothing", "nothing"]).rows.iter().all(|row| row.incident.is_none()));
}

#[test]
fn what_an_agent_does_wrong_loses_it_the_match_wherever_it_falls() {
    for wrong in ["make", "begin", "choose"] {
        let rows = played("nothing", ["nothing", wrong]);
        let outcomes: Vec<Outcome> = rows.rows.iter().map(|row| row.outcome).collect();
        assert_eq!(outcomes, [Outcome::Win, Outcome::Loss], "{wrong}");
        assert!(rows.rows[1].incident.as_ref().is_some_and(|text| text.starts_with("seat 1 panicked at")), "{wrong}");
        assert_eq!((rows.rows[0].faults, rows.rows[1].faults), (0, 1), "{wrong}");
    }
    // A game that has no sound scores by then has no winner either.
    let rows = played("forfeit without scores", ["nothing", "choose"]);
    assert!(rows.rows.iter().all(|row| row.outcome == Outcome::Void), "{rows:?}");
    assert!(rows.rows[0].incident.as_ref().is_some_and(|text| text.contains("; the game failed: its scores are [")));
}

#[test]
fn what_falls_while_it_is_made_ready_is_an_error() {
    quiet_panics_in_matches();
    for (game, agent, message) in
        [("lay", "nothing", "there is no ground"), ("nothing", "prepare", "it cannot be prepared")]
    {
        let error = entry().stage(&setting(game, [agent, "nothing"])).err().expect("it cannot be staged");
        assert!(matches!(error, SettingError::Fell { .. }) && error.to_string().contains(message), "{error}");
    }
}

#[test]
fn a_panic_of_what_is_thrown_away_is_no_fault_of_the_next_match() {
    let mut stage = staged("drop", ["nothing", "nothing"]);
    let mut rows = rows();
    stage.play(Spot::default(), &mut rows);
    assert!(rows.rows[0].incident.is_none(), "it came to its end");
    let fell = inkpot_core::catch(|| stage.play(Spot::default(), &mut rows));
    assert!(fell.is_err_and(|message| message.ends_with("it does not go")), "whoever plays on the stage hears of it");
    let leaves = inkpot_core::catch(|| drop(stage));
    assert!(leaves.is_err());
}

#[test]
fn a_match_without_end_can_be_asked_to_stop() {
    let mut stage = staged("endless", ["nothing", "nothing"]);
    let halt = Halt::new();
    stage.heed(&halt);
    let late = halt.clone();
    let caller = std::thread::spawn(move || {
        std::thread::sleep(std::time::Duration::from_millis(20));
        assert!(!late.call());
    });
    stage.play(Spot::default(), &mut rows());
    assert!(halt.is_called() && halt.call());
    caller.join().expect("it called");
}
