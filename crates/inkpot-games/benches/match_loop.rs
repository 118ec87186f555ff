//! Is the match loop as fast as one written by hand? `cargo bench -p inkpot-games`
//!
//! Both play the same matches of piste between the same agents: once in a bare loop that calls everything by
//! its concrete type, once through stepper, players and boxed agents. First the ratio, taken in turns so that a
//! machine whose speed drifts treats both alike; then the usual table.

use std::hint::black_box;
use std::time::Instant;

use inkpot_core::{Acting, Agent, Chance, Choices, Game, Players, Sight, Stepper, TICK_LIMIT, Unobserved, play};
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
    fn choose(&mut self, sight: &Sight<'_, Piste>) -> Order {
        self.decide(sight.view())
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
    fn choose(&mut self, sight: &Sight<'_, Piste>) -> Order {
        self.0.decide(sight.view())
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
    let mut view = View::default();
    let mut ticks = 0;
    while game.acting() != Acting::Nobody {
        for (seat, agent) in agents.iter_mut().enumerate() {
            game.view(seat, &mut view);
            choices.set(seat, agent.decide(&view));
        }
        game.advance(&choices, &mut world);
        ticks += 1;
    }
    ticks
}

fn harness<A: Decides>(seed: u64) -> u64 {
    let mut world = Chance::from_seed(seed);
    let game = Piste::new(RULES, &mut world);
    let agents: Vec<Box<dyn Agent<Piste>>> =
        [1, 2].map(|seat| Box::new(A::at(seed ^ seat)) as Box<dyn Agent<Piste>>).into();
    let mut players = Players::seat(agents, |_| Chance::from_seed(0));
    let mut stepper = Stepper::new(game, world);
    play(&mut stepper, &mut players, &mut Unobserved, TICK_LIMIT).expect("piste does not fall");
    stepper.tick()
}

fn ticks_a_second(run: impl Fn(u64) -> u64, seeds: std::ops::Range<u64>) -> f64 {
    let start = Instant::now();
    let ticks: u64 = seeds.map(|seed| black_box(run(black_box(seed)))).sum();
    ticks as f64 / start.elapsed().as_secs_f64()
}

fn ratio<A: Decides>(what: &str) {
    assert_eq!(bare::<A>(7), harness::<A>(7), "both loops play the same match");
    let mut ratios: Vec<f64> = (0..41)
        .map(|round| {
            let seeds = round * 100..round * 100 + 100;
            let by_hand = ticks_a_second(bare::<A>, seeds.clone());
            ticks_a_second(harness::<A>, seeds) / by_hand
        })
        .collect();
    ratios.sort_by(f64::total_cmp);
    println!(
        "match loop against a bare loop, {what}, ticks a second: {:.2} times (quartiles {:.2} to {:.2})",
        ratios[20], ratios[10], ratios[30]
    );
}

fn main() {
    ratio::<House>("house fencers");
    ratio::<Plain>("agents of a few instructions");
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
