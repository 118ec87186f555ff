//! The searches on toys whose right answers are known.

use crate::toys::{Calls, Cups, Doors, Ladder, Posts, entry, everywhere, knobs_of, set, weighed};
use inkpot_agents::{drifter, horizon, minimax, playouts, treesearch, treesearch_reusing};
use inkpot_core::{
    AgentKind, Broken, Chance, Conformance, CountRequest, Game, GameEntry, Imagine, Knobs, Moment, Options, Rows,
    Sequences, Spot, Telling, tell,
};

#[test]
fn the_toy_with_a_symmetry_keeps_what_games_promise() -> Result<(), Broken> {
    let posts = entry(2, |_| Posts::new(7)).agent(minimax(&[]));
    Conformance::of(&posts).options().imagined().appraised(Vec::new()).keyed().agents().check()
}

/// Whether the mover wins, and after how many turns, by every line; winners hurry and losers linger.
fn every_line(state: &Posts) -> (bool, i32) {
    let futures = options(state).into_iter().map(|option| {
        let next = after(state, option);
        if next.verdict().is_some() {
            return (true, 1);
        }
        let (wins, turns) = every_line(&next);
        (!wins, turns + 1)
    });
    futures.max_by_key(|&future| liking(future)).expect("a row that stands has an option")
}

/// How much a future is liked: a win above a loss, a sooner win, a later loss.
fn liking((wins, turns): (bool, i32)) -> (bool, i32) {
    (wins, if wins { -turns } else { turns })
}

fn options(state: &Posts) -> Vec<(usize, usize)> {
    let mut options = Vec::new();
    state.options(state.side, &mut options);
    options
}

fn after(state: &Posts, option: (usize, usize)) -> Posts {
    let mut next = state.clone();
    let mut choices = inkpot_core::Choices::none(2);
    choices.set(state.side, option);
    next.advance(&choices, &mut Chance::from_seed(0));
    next
}

/// Every row of up to seven posts: the values are right although the table folds rows with their mirror images, and
/// among equal values the sooner win and the later loss are taken.
#[test]
fn minimax_agrees_with_every_line_and_hurries_to_win_and_lingers_to_lose() {
    let mut decided_by_time = [0, 0];
    for standing in 1u32..128 {
        let mut row = Posts::new(7);
        row.standing = (0..7).map(|post| standing >> post & 1 == 1).collect();
        let judged: Vec<_> = options(&row)
            .into_iter()
            .map(|option| {
                let next = after(&row, option);
                let future = if next.verdict().is_some() { (true, 0) } else { every_line(&next) };
                let wins = if next.verdict().is_some() { true } else { !future.0 };
                (serde_json::to_value(option).unwrap(), (wins, future.1 + 1))
            })
            .collect();
        let best = judged.iter().map(|(_, future)| liking(*future)).max().unwrap();
        let tied = judged.iter().filter(|(_, future)| future.0 == best.0 && liking(*future) != best).count();
        decided_by_time[usize::from(best.0)] += usize::from(tied > 0);
        let explained = weighed(2, move |_| row.clone(), minimax(&[]), &set("depth", 20.0));
        let thoughts = explained.thoughts.unwrap();
        assert!(thoughts.spent.exact);
        for option in &thoughts.options {
            let (_, (wins, _)) = judged.iter().find(|(known, _)| *known == option.option).unwrap();
            assert_eq!(option.value, if *wins { 1.0 } else { -1.0 }, "{standing:07b} {}", option.option);
        }
        let (_, taken) = judged.iter().find(|(known, _)| Some(known) == explained.best.as_ref()).unwrap();
        assert_eq!(liking(*taken), best, "{standing:07b}");
    }
    assert!(decided_by_time.iter().all(|&rows| rows > 0), "rows that time decides: {decided_by_time:?}");
}

#[test]
fn max_n_looks_after_each_of_three_seats() {
    let explained = weighed(3, |_| Ladder::new(3, 5), minimax(&[]), &set("depth", 9.0));
    let thoughts = explained.thoughts.unwrap();
    assert!(thoughts.spent.exact);
    let values: Vec<f64> = thoughts.options.iter().map(|option| option.value).collect();
    assert_eq!(values, by_hand());
}

/// The values of seat 0's two options in `Ladder::new(3, 5)`, best first, by writing out every line; among equal ones
/// for itself each seat takes the first, as max-n does.
fn by_hand() -> Vec<f64> {
    fn winner(count: u32, turn: usize) -> usize {
        let reached = |step: u32| if count + step >= 5 { turn } else { winner(count + step, (turn + 1) % 3) };
        let (first, two) = (reached(1), reached(2));
        if first != turn && two == turn { two } else { first }
    }
    let mut values = [1, 2].map(|step| -> f64 {
        if winner(step, 1) == 0 { 1.0 } else { -1.0 }
    });
    values.sort_by(|a, b| b.total_cmp(a));
    values.to_vec()
}

#[test]
fn tree_search_and_playouts_find_the_winning_post() {
    for (kind, budget) in [(treesearch(&[]), 4000.0), (treesearch_reusing(&[]), 4000.0)] {
        let explained = weighed(2, |_| Posts::new(5), kind, &set("iterations", budget));
        assert_eq!(explained.best.unwrap().to_string(), "[2,1]");
        let thoughts = explained.thoughts.unwrap();
        assert!(thoughts.options[0].value > 0.8, "{}", thoughts.options[0].value);
        assert!(!thoughts.options[0].replies.is_empty(), "two layers were asked for");
        assert_eq!(thoughts.spent.iterations, 4000);
    }
    let flat = weighed(2, |_| Posts::new(2), playouts(&[]), &set("iterations", 200.0));
    assert_eq!(flat.best.unwrap().to_string(), "[0,2]");
}

#[test]
fn seats_that_choose_at_once_mix_their_choices() {
    let explained =
        weighed(2, |_| Doors::new(), treesearch(&[]), &set("iterations", 30_000.0).with("exploration", 0.3));
    let shares: Vec<(String, f64)> =
        explained.thoughts.unwrap().options.iter().map(|o| (o.option.to_string(), o.share.unwrap())).collect();
    // Points shares count wins alone, so by symmetry each door is one third; nobody who chose in turn would mix.
    for (door, share) in shares {
        assert!((share - 1.0 / 3.0).abs() < 0.12, "door {door}: {share}");
    }
}

#[test]
fn where_chance_decides_who_acts_next_every_seat_chooses_for_itself() {
    for kind in [treesearch(&[]), playouts(&[]), horizon(&[], &[])] {
        let name = kind.sheet().name.clone();
        let explained = weighed(2, |_| Calls::new(), kind, &Knobs::default());
        assert_eq!((explained.fell, explained.best), (None, Some(1.into())), "{name}");
    }
}

#[test]
fn hidden_things_are_imagined_and_never_known() {
    // Lifting blindly is worth -4 on average, walking away -0.25: who peeked would lift the right cup.
    for seed in 0..8 {
        let kind = treesearch(&[]);
        let knobs = knobs_of(&kind, &set("iterations", 2000.0));
        let setting = everywhere("treesearch", &knobs, 1, seed);
        let explained = entry(1, Cups::new).agent(kind).explain(&setting, None, None, 1).unwrap();
        assert_eq!(explained.best.unwrap().to_string(), "2", "seed {seed}");
    }
    let mut chance = Chance::from_seed(1);
    let state = Cups::new(&mut chance);
    assert_eq!(state.imagine(0, &mut chance).unwrap().view(0), state.view(0));
}

/// The choices of a whole match, told or only played.
fn choices(kind: AgentKind<Posts>, given: &Knobs, by_word: bool) -> Vec<(String, serde_json::Value)> {
    let knobs = knobs_of(&kind, given);
    let name = kind.sheet().name.clone();
    let game = entry(2, |_| Posts::new(9)).agent(kind);
    let mut stage = game.stage(&everywhere(&name, &knobs, 2, 1)).unwrap();
    let (mut rows, mut made) = (Rows::new(0), Vec::new());
    let spot = Spot::default();
    let mut listener = |moment: Moment| {
        if let Moment::Choice { action, thoughts, .. } = moment {
            made.push((action.to_string(), thoughts));
        }
    };
    if by_word {
        tell(stage.open(spot), Telling::Choices, &mut listener, &mut rows);
    } else {
        stage.play(spot, &mut rows);
        made.push((format!("{} {}", rows.rows[0].ticks, rows.rows[0].score), serde_json::Value::Null));
    }
    if by_word {
        made.push((format!("{} {}", rows.rows[0].ticks, rows.rows[0].score), serde_json::Value::Null));
    }
    made
}

#[test]
fn telling_a_match_changes_nothing_and_carries_the_thoughts() {
    for (kind, knobs) in [
        (minimax(&[]), set("nodes", 300.0)),
        (treesearch_reusing(&[]), set("iterations", 60.0)),
        (playouts(&[]), set("iterations", 60.0)),
        (horizon(&[], &[]), set("rollouts", 20.0)),
    ] {
        let by_word = choices(kind.clone(), &knobs, true);
        let played = choices(kind.clone(), &knobs, false);
        assert_eq!(by_word.last(), played.last(), "{}", kind.sheet().name);
        for (action, thoughts) in &by_word[..by_word.len() - 1] {
            let options = thoughts["options"].as_array().unwrap();
            let named: Vec<String> = options.iter().map(|option| option["option"].to_string()).collect();
            assert!(named.contains(action), "{}", kind.sheet().name);
            assert!(thoughts["spent"]["nodes"].as_u64().is_some());
        }
    }
}

/// Share of the first choices of many seeds that minimax makes when it is limited.
fn share_of_best(given: &Knobs) -> f64 {
    let kind = minimax(&[]);
    let knobs = knobs_of(&kind, &given.clone().with("depth", 9.0));
    let game = entry(2, |_| Posts::new(3)).agent(kind);
    let best = (0..400).filter(|&seed| {
        let explained = game.explain(&everywhere("minimax", &knobs, 2, seed), None, None, 1);
        let best = explained.unwrap().best.unwrap().to_string();
        best == "[1,1]"
    });
    best.count() as f64 / 400.0
}

#[test]
fn slip_and_temper_weaken_by_as_much_as_they_say() {
    assert_eq!(share_of_best(&Knobs::default()), 1.0);
    // Five options, one of them the best: half of the choices at random leave 0.5 + 0.5 / 5.
    let slipping = share_of_best(&set("slip", 0.5));
    assert!((slipping - 0.6).abs() < 0.1, "{slipping}");
    // Only the middle post wins (1); the other four lose (-1): e^0 against four times e^-2 at temper 1.
    let tempered = share_of_best(&set("temper", 1.0));
    let expected = 1.0 / (1.0 + 4.0 * (-2.0f64).exp());
    assert!((tempered - expected).abs() < 0.1, "{tempered} against {expected}");
}

#[test]
fn counts_agree_with_those_by_hand_and_estimates_hold_the_truth() {
    // Two posts: 3 first moves; after one post taken, one move is left. Sequences 1, 3, 2, and then no more.
    let game = entry(2, |_| Posts::new(2)).agent(drifter(1)).counted();
    let place = everywhere("drifter", &Knobs::default().with("hold", 1.0), 2, 1);
    let request = |exact, beyond| CountRequest { exact, beyond, samples: 4000, seed: 3, most_positions: 1000 };
    let layers = game.count(&place, None, &request(3, 0), &mut |_| {}).unwrap();
    let exact: Vec<_> = layers.iter().map(|layer| (layer.sequences, layer.positions, layer.over)).collect();
    let counted = |count| Sequences::Exact { count };
    assert_eq!(exact, [(counted(1), Some(1), Some(0)), (counted(3), Some(3), Some(1)), (counted(2), Some(1), Some(1))]);
    let game = entry(2, |_| Posts::new(7)).agent(drifter(1)).counted();
    let all = game.count(&place, None, &request(5, 0), &mut |_| {}).unwrap();
    let some = game.count(&place, None, &request(2, 3), &mut |_| {}).unwrap();
    for (truth, guess) in all.iter().zip(&some).skip(3) {
        let (Sequences::Exact { count }, Sequences::Sampled { mean, sd, samples }) = (truth.sequences, guess.sequences)
        else {
            panic!("{truth:?} {guess:?}");
        };
        let error = 4.0 * sd / (samples as f64).sqrt();
        assert!((mean - count as f64).abs() < error, "{mean} against {count} (4 standard errors: {error})");
    }
    assert!(game.count(&place, None, &CountRequest { most_positions: 3, ..request(5, 0) }, &mut |_| {}).is_err());
}
