//! Suspense, on a walk whose course decides it: near an even chance until the last step, or decided at the first.

use inkpot_core::{
    Acting, Advance, Agent, AgentKind, Chance, Choices, Ending, Entry, Game, GameSheet, GaveUp, Halt, Knob, Knobs,
    LevelSheet, Measured, Registry, Seat, Sight, Verdict,
};
use inkpot_lab::{Draft, EntrantDraft, Runner, StudySummary, Threads, resolve, summarise};
use inkpot_stats::Interval;

const TICKS: u64 = 40;

/// Every tick one of the two gets a point by chance; at one tick somebody gets a bonus that decides the match.
struct Walk {
    scores: [f64; 2],
    tick: u64,
    /// When the bonus comes, and how much it is.
    decided_at: u64,
    bonus: f64,
}

impl Game for Walk {
    type Action = u8;
    type View = ();

    fn seats(&self) -> usize {
        2
    }

    fn acting(&self) -> Acting<'_> {
        if self.tick < TICKS { Acting::All } else { Acting::Nobody }
    }

    fn view(&self, _seat: Seat) {}

    fn advance(&mut self, _choices: &Choices<u8>, chance: &mut Chance) -> Advance {
        self.scores[chance.below(2)] += 1.0;
        if self.tick == self.decided_at {
            self.scores[chance.below(2)] += self.bonus;
        }
        self.tick += 1;
        Advance::Fine
    }

    fn scores(&self) -> &[f64] {
        &self.scores
    }

    fn verdict(&self) -> Option<Verdict> {
        (self.tick >= TICKS).then(|| Verdict::by_score(&self.scores, Ending::Decided("time".into())))
    }
}

impl Measured for Walk {
    fn measures(&self, _seat: Seat, _into: &mut Vec<f64>) {}
}

struct Sitter;

impl Agent<Walk> for Sitter {
    fn choose(&mut self, _sight: &Sight<'_, Walk>) -> Result<u8, GaveUp> {
        Ok(0)
    }
}

fn registry() -> Registry {
    let sheet = GameSheet {
        name: "walk".into(),
        help: "a walk".into(),
        seats: 2..=2,
        ticks_per_second: None,
        rules: vec![Knob::whole("decided_at", 0..=100, 100), Knob::real("bonus", 0.0..=100.0, 0.0)],
        levels: vec![LevelSheet::new("path", "")],
        level_file: None,
        without_chance: None,
        measures: Vec::new(),
    };
    let sitter = AgentKind::new("sitter", "sits").factory(|_| Box::new(|_| Box::new(Sitter)));
    let entry = Entry::new(sheet, |laying| {
        let rules = laying.rules;
        let (decided_at, bonus) = (rules.number("decided_at") as u64, rules.number("bonus"));
        Ok(Box::new(move |_: &mut Chance| Walk { scores: [0.0; 2], tick: 0, decided_at, bonus }))
    });
    Registry::default().with(entry.agent(sitter))
}

fn summary(decided_at: f64, bonus: f64, matches: u64) -> StudySummary {
    let registry = registry();
    let named =
        |name: &str| EntrantDraft { name: Some(name.into()), agent: "sitter".into(), ..EntrantDraft::default() };
    let draft = Draft {
        game: "walk".into(),
        seed: Some(4),
        matches: Some(matches),
        rules: Knobs::default().with("decided_at", decided_at).with("bonus", bonus),
        entrants: vec![named("a"), named("b")],
        ..Draft::default()
    };
    let plan = resolve(&draft.into(), &registry).expect("the draft is fine");
    let game = registry.game("walk").expect("the game is there");
    let folder = tempfile::tempdir().expect("a temporary folder");
    let (study, mut manifest) = crate::begin::begun(folder.path(), &plan);
    let halt = Halt::new();
    let (_, plan) =
        Runner::new(&plan, game, &Threads(2), &halt).play(&study, &mut manifest, &mut |_| {}).expect("it is played");
    summarise(&study, &manifest, &plan, game).expect("it is complete").0
}

fn suspense(summary: &StudySummary) -> Interval {
    summary.entrants[0].measures["suspense"].interval().expect("there are blocks enough")
}

#[test]
fn a_match_that_is_decided_at_once_has_next_to_none() {
    let interval = suspense(&summary(0.0, 100.0, 800));
    assert!(interval.high < 0.15, "{interval:?}");
}

#[test]
fn a_match_that_is_decided_at_the_last_tick_has_nearly_all() {
    let interval = suspense(&summary(39.0, 100.0, 800));
    assert!(interval.low > 0.85, "{interval:?}");
}

#[test]
fn a_plain_walk_lies_between_and_an_earlier_decision_leaves_less() {
    let walk = suspense(&summary(100.0, 0.0, 800));
    let (early, late) = (suspense(&summary(8.0, 100.0, 800)), suspense(&summary(30.0, 100.0, 800)));
    assert!(early.high < walk.low && walk.high < late.low, "{early:?} {walk:?} {late:?}");
    assert!((0.4..0.8).contains(&walk.value), "{walk:?}");
}

#[test]
fn suspense_is_a_measure_of_the_match_and_the_same_for_both() {
    let summary = summary(100.0, 0.0, 200);
    assert_eq!(summary.entrants[0].measures["suspense"], summary.entrants[1].measures["suspense"]);
    assert!((0.0..=1.0).contains(&suspense(&summary).low) && suspense(&summary).high <= 1.0);
}
