//! What happens when a search has next to no budget, goes wrong, is late or gives up.

use std::time::{Duration, Instant};

use crate::toys::{Doors, Posts, entry, everywhere, knobs_of, set, weighed};
use inkpot_agents::{drifter, horizon, minimax, playouts, treesearch, treesearch_reusing};
use inkpot_core::{Agent, AgentKind, Chance, Entry, GameEntry, GameSheet, GaveUp, Knobs, Pace, Rows, Sight, Spot};

#[test]
fn no_budget_and_a_tiny_one_still_give_a_legal_choice() {
    let cases: Vec<(AgentKind<Posts>, &str)> = vec![
        (minimax(&[]), "depth"),
        (minimax(&[]), "nodes"),
        (minimax(&[]), "millis"),
        (treesearch(&[]), "iterations"),
        (treesearch_reusing(&[]), "nodes"),
        (playouts(&[]), "iterations"),
        (playouts(&[]), "millis"),
        (horizon(&[], &[]), "rollouts"),
        (horizon(&[], &[]), "nodes"),
    ];
    for (kind, budget) in cases {
        for amount in [0.0, 1.0, 3.0] {
            let explained = weighed(2, |_| Posts::new(4), kind.clone(), &set(budget, amount));
            assert_eq!(explained.fell, None, "{} {budget} {amount}", kind.sheet().name);
            assert!(explained.best.is_some());
        }
    }
}

#[test]
fn a_search_that_panics_forfeits_and_leaves_the_line_it_was_looking_at() {
    let kinds: Vec<AgentKind<Posts>> = vec![minimax(&[]), treesearch(&[]), playouts(&[])];
    for kind in kinds {
        let knobs = knobs_of(&kind, &Knobs::default());
        let name = kind.sheet().name.clone();
        let game = entry(2, |_| Posts::trapped(5)).agent(kind);
        let mut stage = game.stage(&everywhere(&name, &knobs, 2, 1)).unwrap();
        let mut rows = Rows::new(0);
        stage.play(Spot::default(), &mut rows);
        let incident = rows.rows[0].incident.clone().unwrap();
        assert!(incident.contains("rotten") && incident.contains("it was looking at the line ["), "{name}: {incident}");
        assert_eq!((rows.rows[0].placement, rows.rows[1].placement), (2, 1));
    }
    let explained = weighed(2, |_| Posts::trapped(5), minimax(&[]), &Knobs::default());
    assert!(explained.fell.unwrap().contains("rotten"));
    assert!(!explained.thoughts.unwrap().looking_at.is_empty());
}

#[test]
fn minimax_refuses_seats_that_choose_at_once() {
    let explained = weighed(2, |_| Doors::new(), minimax(&[]), &Knobs::default());
    assert!(explained.fell.unwrap().contains("several choose at once; use treesearch or horizon"));
}

/// Promises no time at all and takes more than the grace.
struct Dawdler;

impl Agent<Posts> for Dawdler {
    fn choose(&mut self, sight: &Sight<'_, Posts>) -> Result<(usize, usize), GaveUp> {
        let start = Instant::now();
        while start.elapsed() < Duration::from_millis(25) {}
        Ok(sight.draw(&mut Chance::from_seed(1)))
    }

    fn pace(&self) -> Pace {
        Pace::Within(Duration::ZERO)
    }
}

#[test]
fn a_late_decision_is_a_fault_and_stands() {
    let kind = AgentKind::new("dawdler", "is late").factory(|_| Box::new(|_| Box::new(Dawdler)));
    let game = entry(2, |_| Posts::new(1)).agent(kind);
    let setting = everywhere("dawdler", &Knobs::default(), 2, 1);
    let mut rows = Rows::new(0);
    game.stage(&setting).unwrap().play(Spot::default(), &mut rows);
    assert_eq!((rows.rows[0].faults, rows.rows[0].placement), (1, 1));
    assert_eq!(rows.rows[1].faults, 0);
}

/// Gives up at its second decision.
struct Quitter {
    decisions: u32,
}

impl Agent<Posts> for Quitter {
    fn choose(&mut self, sight: &Sight<'_, Posts>) -> Result<(usize, usize), GaveUp> {
        self.decisions += 1;
        if self.decisions > 1 {
            return Err(GaveUp::because("the line is dead"));
        }
        Ok(sight.draw(&mut Chance::from_seed(1)))
    }
}

#[test]
fn an_agent_that_gives_up_forfeits_and_says_why() {
    let kind = AgentKind::new("quitter", "gives up").factory(|_| Box::new(|_| Box::new(Quitter { decisions: 0 })));
    let game = entry(2, |_| Posts::new(9)).agent(kind);
    let setting = everywhere("quitter", &Knobs::default(), 2, 1);
    let mut stage = game.stage(&setting).unwrap();
    let mut rows = Rows::new(0);
    // What fell is made anew: the second match goes as the first.
    for _ in 0..2 {
        stage.play(Spot::default(), &mut rows);
    }
    for row in [&rows.rows[0], &rows.rows[2]] {
        let incident = row.incident.as_ref().unwrap();
        assert!(incident.starts_with("seat 0 gave up: the line is dead; tick 2"), "{incident}");
        assert_eq!((row.placement, row.faults, row.ending.as_ref()), (2, 1, "forfeit"));
    }
    let mut held = stage.open(Spot::default());
    while held.turn() {}
    assert!(held.pending().is_empty() && !held.turn(), "it is over");
    held.close(&mut rows);
    assert_eq!(rows.rows[4].incident, rows.rows[0].incident);
}

#[test]
fn more_seats_than_a_match_can_have_are_refused_in_words() {
    let mut sheet = GameSheet { seats: 2..=100, ..entry(2, |_| Posts::new(3)).sheet().clone() };
    sheet.measures.clear();
    let game = Entry::new(sheet, |_laying| Ok(Box::new(|_: &mut Chance| Posts::new(3))));
    let error = game.agent(drifter(1)).stage(&everywhere("drifter", &Knobs::default().with("hold", 1.0), 2, 1));
    assert_eq!(error.err().unwrap().to_string(), "`toy` has up to 100 seats, and a match can have 64");
}
