//! The rules of piste, and what makes it worth tuning.

use inkpot_core::{
    Casting, Chance, Game, KnobValue, Knobs, Level, Measured, Options, Outcome, Pictured, Rows, Scene, Seating,
    Setting, Spot, Stepper,
};
use inkpot_games::piste::{Blade, Double, Order, Phase, Piste, PisteRules, View};
use inkpot_games::registry;
use proptest::prelude::*;

const RULES: PisteRules = PisteRules {
    touches: 5,
    time: 600,
    double: Double::Both,
    top_speed: 3.0,
    reach_m: 1.6,
    wind_up: 14,
    strip_m: 14.0,
};

fn start(rules: PisteRules) -> Stepper<Piste> {
    let mut world = Chance::from_seed(1);
    let game = Piste::new(rules, &mut world);
    Stepper::new(game, world)
}

fn order(throttle: f64, blade: Blade) -> Order {
    Order { throttle, blade }
}

fn stand() -> Order {
    Order::default()
}

fn view(stepper: &Stepper<Piste>, seat: usize) -> View {
    stepper.game().view(seat)
}

fn step(stepper: &mut Stepper<Piste>, orders: [Order; 2]) {
    for (seat, order) in orders.into_iter().enumerate() {
        stepper.choose(seat, order);
    }
    stepper.step().unwrap();
}

/// Both walk in until they stand closer than `gap_m`, then come to rest.
fn approach(stepper: &mut Stepper<Piste>, gap_m: f64) {
    while view(stepper, 0).gap_m > gap_m {
        step(stepper, [order(0.5, Blade::None); 2]);
    }
    for _ in 0..20 {
        step(stepper, [stand(); 2]);
    }
}

/// Steps until the scores change; gives the ticks that took.
fn until_scored(stepper: &mut Stepper<Piste>, mut orders: impl FnMut(u32) -> [Order; 2]) -> Option<u32> {
    let before = stepper.game().scores().to_vec();
    (1..200).find(|&tick| {
        step(stepper, orders(tick - 1));
        stepper.game().scores() != before
    })
}

#[test]
fn fencers_start_four_metres_apart_with_a_little_jitter() {
    for seed in 0..50 {
        let gap_m = Piste::new(RULES, &mut Chance::from_seed(seed)).gap_m();
        assert!((gap_m - 4.0).abs() <= 0.4, "{gap_m}");
    }
}

#[test]
fn a_lunge_in_reach_scores_after_its_wind_up_and_both_go_back() {
    let mut stepper = start(RULES);
    approach(&mut stepper, 1.4);
    let ticks =
        until_scored(&mut stepper, |tick| [order(0.0, if tick == 0 { Blade::Lunge } else { Blade::None }), stand()]);
    // One tick to begin, 14 of wind-up, then two in which the other could still make it a double touch.
    assert_eq!((ticks, stepper.game().scores()), (Some(1 + 14 + 2), [1.0, 0.0].as_slice()));
    assert_eq!(stepper.game().scored_by().as_deref(), Some("lunge"));
    assert!((view(&stepper, 0).gap_m - 4.0).abs() <= 0.4);
}

#[test]
fn a_lunge_out_of_reach_scores_nothing_and_takes_long_to_recover() {
    let mut stepper = start(RULES);
    let lunge = |tick| [order(0.0, if tick == 0 { Blade::Lunge } else { Blade::None }), stand()];
    assert_eq!(until_scored(&mut stepper, lunge), None);
    let mut stepper = start(RULES);
    step(&mut stepper, lunge(0));
    let busy = (0..100).take_while(|_| {
        let busy = view(&stepper, 0).phase != Phase::Free;
        step(&mut stepper, [stand(); 2]);
        busy
    });
    assert_eq!(busy.count(), 14 + 4 + 24);
}

#[test]
fn a_guard_in_time_stops_a_thrust_and_leaves_time_to_riposte() {
    let mut stepper = start(RULES);
    approach(&mut stepper, 1.4);
    let ticks = until_scored(&mut stepper, |tick| {
        let attack = if tick == 0 { Blade::Lunge } else { Blade::None };
        // Guard just before the thrust, then lunge as soon as the guard has met it and closed.
        let defence = match tick {
            10 => Blade::Parry,
            21 => Blade::Lunge,
            _ => Blade::None,
        };
        [order(0.0, attack), order(0.0, defence)]
    });
    assert!(ticks.is_some());
    assert_eq!(stepper.game().scores(), [0.0, 1.0]);
    assert_eq!(stepper.game().scored_by().as_deref(), Some("riposte"));
    let mut figures = Vec::new();
    stepper.game().measures(1, &mut figures);
    assert_eq!(figures[2..4], [1.0, 1.0], "one parry, a good one");
}

#[test]
fn thrusts_that_land_together_are_a_double_touch() {
    for (double, scores) in [(Double::Both, [1.0, 1.0]), (Double::Neither, [0.0, 0.0])] {
        let mut stepper = start(PisteRules { double, ..RULES });
        approach(&mut stepper, 1.4);
        let phrase = view(&stepper, 0).phrase;
        for tick in 0..40 {
            // One of them a tick late: still within the window.
            let lunge = |at| order(0.0, if tick == at { Blade::Lunge } else { Blade::None });
            step(&mut stepper, [lunge(0), lunge(1)]);
            if view(&stepper, 0).phrase != phrase {
                break;
            }
        }
        assert_eq!(stepper.game().scores(), scores);
        assert_eq!(stepper.game().scored_by().as_deref(), (double == Double::Both).then_some("double"));
        let mut figures = Vec::new();
        stepper.game().measures(0, &mut figures);
        assert_eq!(figures[9], 1.0, "doubles");
    }
}

#[test]
fn backing_off_the_strip_is_a_touch_for_the_other() {
    let mut stepper = start(RULES);
    let ticks = until_scored(&mut stepper, |_| [order(-1.0, Blade::None), stand()]);
    assert!(ticks.is_some());
    assert_eq!(stepper.game().scores(), [0.0, 1.0]);
    assert_eq!(stepper.game().scored_by().as_deref(), Some("edge"));
}

#[test]
fn illegal_orders_are_faults_and_count_as_standing_still() {
    let mut stepper = start(RULES);
    let before = view(&stepper, 0).gap_m;
    for throttle in [1.1, -2.0, f64::NAN, f64::INFINITY] {
        step(&mut stepper, [order(throttle, Blade::None), stand()]);
    }
    assert_eq!((stepper.faults(), view(&stepper, 0).gap_m), ([4, 0].as_slice(), before));
    step(&mut stepper, [order(0.0, Blade::Lunge), stand()]);
    step(&mut stepper, [order(0.0, Blade::Parry), stand()]);
    assert_eq!(stepper.faults(), [5, 0], "a busy blade takes no order");
    stepper.step().unwrap();
    assert_eq!(stepper.faults(), [6, 1], "no choice is a fault too");
}

#[test]
fn the_clock_ends_a_match_without_a_winner_in_a_draw() {
    let mut stepper = start(RULES);
    while stepper.verdict().is_none() {
        step(&mut stepper, [stand(); 2]);
    }
    let verdict = stepper.verdict().unwrap();
    assert_eq!((stepper.tick(), verdict.placement), (600, vec![1, 1]));
    assert!(verdict.ending.cut_short());
}

#[test]
fn the_scene_lies_within_its_window() {
    let stepper = start(RULES);
    let mut scene = Scene::default();
    stepper.game().scene(&mut scene);
    assert!(scene.shapes.len() >= 7);
    assert!(scene.high[0] > 14.0 && scene.low[0] < 0.0);
}

proptest! {
    #[test]
    fn any_options_are_legal_and_keep_bodies_apart(seed in any::<u64>(), picks in prop::collection::vec((0usize..15, 0usize..15), 1..400)) {
        let mut world = Chance::from_seed(seed);
        let game = Piste::new(PisteRules { time: 100_000, touches: 50, ..RULES }, &mut world);
        let mut stepper = Stepper::new(game, world);
        let mut touches = 0.0;
        let mut options = Vec::new();
        for (first, second) in picks {
            let orders = [(0, first), (1, second)].map(|(seat, pick)| {
                options.clear();
                stepper.game().options(seat, &mut options);
                options[pick % options.len()]
            });
            step(&mut stepper, orders);
            let total: f64 = stepper.game().scores().iter().sum();
            prop_assert!(total >= touches);
            touches = total;
            prop_assert!(stepper.game().gap_m() >= 0.4 - 1e-9);
            prop_assert!(stepper.game().gap_m() <= 14.1);
        }
        prop_assert_eq!(stepper.faults(), [0, 0]);
    }
}

/// Points share of the first agent over 300 blocks.
fn share(first: (&str, &[(&str, f64)]), second: (&str, &[(&str, f64)])) -> f64 {
    let registry = registry();
    let game = registry.game("piste").unwrap();
    let cast = |entrant, (name, set): (&str, &[(&str, f64)])| {
        let agent = game.agents().iter().find(|a| a.name == name || a.presets.iter().any(|p| p.name == name)).unwrap();
        let preset = agent.presets.iter().find(|preset| preset.name == name).map(|preset| preset.knobs.clone());
        let set: Knobs = set.iter().map(|(knob, value)| ((*knob).to_string(), KnobValue::Number(*value))).collect();
        Casting::new(entrant, &agent.name, set.over(&preset.unwrap_or_default()).resolve(&agent.knobs).unwrap())
    };
    let setting = Setting {
        rules: Knobs::default().resolve(&game.sheet().rules).unwrap(),
        level: Level::named("pier", Knobs::default()).resolve(game.sheet()).unwrap(),
        cast: vec![cast(0, first), cast(1, second)],
        seating: Seating::rotated(2),
        study_seed: 2,
        pairing: 0,
    };
    let mut stage = game.stage(&setting).unwrap();
    let mut rows = Rows::new(game.sheet().measures.len());
    for match_index in 0..600 {
        let spot =
            Spot { cell: 0, block: match_index / 2, rotation: (match_index % 2) as usize, match_index, leads: false };
        stage.play(spot, &mut rows);
    }
    let mine = rows.rows.iter().filter(|row| row.entrant == 0);
    mine.map(|row| match row.outcome {
        Outcome::Win => 1.0,
        Outcome::Draw => 0.5,
        Outcome::Loss | Outcome::Void => 0.0,
    })
    .sum::<f64>()
        / 600.0
}

#[test]
fn skill_takes_the_newcomer_from_nearly_all_to_nearly_nothing() {
    let shares = [0.0, 0.25, 0.5, 0.75, 1.0].map(|skill| share(("newcomer", &[]), ("fencer", &[("skill", skill)])));
    // The standard error of each is about 2 points; neighbours lie some 20 apart.
    assert!(shares[0] > 0.85 && shares[4] < 0.15, "{shares:?}");
    assert!(shares.windows(2).all(|pair| pair[1] < pair[0]), "{shares:?}");
}

#[test]
fn stand_ins_are_in_order_and_the_drifter_is_below_them() {
    let against_house = |name| share((name, &[]), ("fencer", &[("skill", 0.6)]));
    let [drifter, newcomer, regular, veteran] = ["drifter", "newcomer", "regular", "veteran"].map(against_house);
    assert!(drifter < newcomer && newcomer < regular && regular < veteran, "{drifter} {newcomer} {regular} {veteran}");
}

#[test]
fn no_preset_is_beyond_another() {
    let birds = ["heron", "turnstone", "dunlin", "avocet", "godwit"];
    for (index, first) in birds.iter().enumerate() {
        for second in &birds[index + 1..] {
            let share = share((first, &[]), (second, &[]));
            assert!((0.05..=0.95).contains(&share), "{first} against {second}: {share}");
        }
    }
}
