//! Is the match loop as fast as one written by hand? `cargo bench -p inkpot-games`
//!
//! Both play the same matches of piste between the same agents: once in a bare loop that calls everything by
//! its concrete type, once through stepper, players and boxed agents. First the ratio, taken in turns so that a
//! machine whose speed drifts treats both alike; then the usual table.

use std::cell::RefCell;
use std::hint::black_box;
use std::time::Instant;

use inkpot_core::{
    Acting, Agent, Casting, Chance, Choices, Game, GaveUp, Knobs, Level, MatchTable, Rows, Seating, Setting, Sight,
    Spot, Stage, TICK_LIMIT,
};
use inkpot_games::piste::{Blade, Brain, Double, Order, Phase, Piste, PisteRules, View};

const RULES: PisteRules = PisteRules {
    touches: 5,
    time: 180 * 60,
    double: Double::Both,
    top_speed: 3.0,
    reach_m: 1.6,
    wind_up: 14,
    strip_m: 14.0,
};

/// A fencer so simple that the loop around it weighs as much as it can.
struct Plain {
    chance: Chance,
}

impl Plain {
    #[inline]
    fn decide(&mut self, view: &View) -> Order {
        let throttle = (view.gap_m - 2.0).clamp(-1.0, 1.0).max(-view.behind_m.clamp(0.0, 1.0));
        let free = view.phase == Phase::Free;
        let blade = if free && self.chance.happens(0.02) { Blade::Lunge } else { Blade::None };
        Order { throttle, blade }
    }
}

impl Agent<Piste> for Plain {
    fn choose(&mut self, sight: &Sight<'_, Piste>) -> Result<Order, GaveUp> {
        Ok(self.decide(&sight.view()))
    }
}

/// What both loops need of an agent.
trait Decides: Agent<Piste> + 'static {
    fn at(seed: u64) -> Self;
    fn decide(&mut self, view: &View) -> Order;
}

impl Decides for Plain {
    fn at(seed: u64) -> Self {
        Self { chance: Chance::from_seed(seed) }
    }
    #[inline]
    fn decide(&mut self, view: &View) -> Order {
        Plain::decide(self, view)
    }
}

/// The house fencer, whose own chance both loops give it.
struct House(Brain);

impl Agent<Piste> for House {
    #[inline]
    fn choose(&mut self, sight: &Sight<'_, Piste>) -> Result<Order, GaveUp> {
        Ok(self.0.decide(&sight.view()))
    }
}

impl Decides for House {
    fn at(seed: u64) -> Self {
        Self(Brain::of_skill(0.5, Chance::from_seed(seed)))
    }
    #[inline]
    fn decide(&mut self, view: &View) -> Order {
        self.0.decide(view)
    }
}

fn bare<A: Decides>(seed: u64) -> u64 {
    let mut world = Chance::from_seed(seed);
    let mut game = Piste::new(RULES, &mut world);
    let mut agents = [1, 2].map(|seat| A::at(seed ^ seat));
    let mut choices = Choices::none(2);
    let mut ticks = 0;
    while game.acting() != Acting::Nobody {
        for (seat, agent) in agents.iter_mut().enumerate() {
            choices.set(seat, agent.decide(&game.view(seat)));
        }
        game.advance(&choices, &mut world);
        ticks += 1;
    }
    ticks
}

fn table<A: Decides>(seed: u64) -> MatchTable<Piste> {
    let mut world = Chance::from_seed(seed);
    let game = Piste::new(RULES, &mut world);
    let mut table = MatchTable::new(game, world);
    for seat in [1, 2] {
        table.sit(Box::new(A::at(seed ^ seat)), Chance::from_seed(0));
    }
    table
}

fn harness<A: Decides>(seed: u64) -> u64 {
    let mut table = table::<A>(seed);
    table.play(TICK_LIMIT).expect("piste does not fall");
    table.tick()
}

/// The same by somebody who holds the match and asks each agent in turn.
fn held<A: Decides>(seed: u64) -> u64 {
    let mut table = table::<A>(seed);
    let mut pending = Vec::new();
    loop {
        table.pending(&mut pending);
        if pending.is_empty() {
            return table.tick();
        }
        for seat in &pending {
            table.decide(*seat).expect("a fencer decides");
        }
        table.step().expect("piste does not fall");
    }
}

fn ticks_a_second(run: impl Fn(u64) -> u64, seeds: std::ops::Range<u64>) -> f64 {
    let start = Instant::now();
    let ticks: u64 = seeds.map(|seed| black_box(run(black_box(seed)))).sum();
    ticks as f64 / start.elapsed().as_secs_f64()
}

fn ratio(what: &str, run: impl Fn(u64) -> u64, against: impl Fn(u64) -> u64) {
    assert_eq!(run(7), against(7), "both play the same match");
    let mut ratios: Vec<f64> = (0..41)
        .map(|round| {
            let seeds = round * 100..round * 100 + 100;
            let by_the_other = ticks_a_second(&against, seeds.clone());
            ticks_a_second(&run, seeds) / by_the_other
        })
        .collect();
    ratios.sort_by(f64::total_cmp);
    println!("{what}, ticks a second: {:.2} times (quartiles {:.2} to {:.2})", ratios[20], ratios[10], ratios[30]);
}

/// A stage of the house game between two fencers.
fn stage() -> Box<dyn Stage> {
    let registry = inkpot_games::registry();
    let game = registry.game("piste").expect("a house game");
    let knobs = Knobs::default().resolve(&game.agent("fencer").expect("a house agent").knobs).expect("defaults");
    let setting = Setting {
        rules: Knobs::default().resolve(&game.sheet().rules).expect("defaults"),
        level: Level::named("pier", Knobs::default()).resolve(game.sheet()).expect("a house level"),
        cast: Casting::everywhere("fencer", &knobs, 2),
        seating: Seating::rotated(2),
        study_seed: 1,
        pairing: 0,
    };
    game.stage(&setting).expect("the setting is whole")
}

fn spot(seed: u64) -> Spot {
    Spot { block: seed, ..Spot::default() }
}

fn by_stage(stage: &RefCell<Box<dyn Stage>>, rows: &RefCell<Rows>, seed: u64) -> u64 {
    let mut rows = rows.borrow_mut();
    rows.clear();
    stage.borrow_mut().play(spot(seed), &mut rows);
    rows.rows[0].ticks
}

/// The same match opened by the stage and held from outside.
fn by_holder(stage: &RefCell<Box<dyn Stage>>, rows: &RefCell<Rows>, seed: u64) -> u64 {
    let mut rows = rows.borrow_mut();
    rows.clear();
    let mut held = stage.borrow().open(spot(seed));
    while held.turn() {}
    held.close(&mut rows);
    rows.rows[0].ticks
}

fn main() {
    ratio("match loop against a bare loop, house fencers", harness::<House>, bare::<House>);
    ratio("match loop against a bare loop, agents of a few instructions", harness::<Plain>, bare::<Plain>);
    ratio("held table against the match loop, house fencers", held::<House>, harness::<House>);
    ratio("held table against the match loop, agents of a few instructions", held::<Plain>, harness::<Plain>);
    let (stage, rows) = (RefCell::new(stage()), RefCell::new(Rows::new(64)));
    ratio(
        "match that a stage opened against the stage's own loop",
        |seed| by_holder(&stage, &rows, seed),
        |seed| by_stage(&stage, &rows, seed),
    );
    divan::main();
}

#[divan::bench(types = [House, Plain])]
fn bare_loop<A: Decides>(bencher: divan::Bencher) {
    bencher.counter(divan::counter::ItemsCount::new(bare::<A>(7))).bench(|| bare::<A>(black_box(7)));
}

#[divan::bench(types = [House, Plain])]
fn match_loop<A: Decides>(bencher: divan::Bencher) {
    bencher.counter(divan::counter::ItemsCount::new(bare::<A>(7))).bench(|| harness::<A>(black_box(7)));
}
