//! The stand-ins: agents that play like a person of a given ability. Each block draws its person from a population.

use inkpot_core::{AgentKind, Knob, Knobs, Person};

use super::brain::{Brain, Temper};
use super::game::Piste;
use super::percept::Senses;
use super::rules::{TICK_S, TICKS_PER_SECOND};

/// The kind `standin` with its presets `newcomer`, `regular` and `veteran`.
pub(crate) fn standin() -> AgentKind<Piste> {
    knobs()
        .into_iter()
        .fold(AgentKind::new("standin", "plays like a person: late, blurred, sometimes absent-minded"), AgentKind::knob)
        .preset("newcomer", "somebody's first evening on the pier", newcomer())
        .preset("regular", "fences here every week", Knobs::default())
        .preset("veteran", "has seen every trick", veteran())
        .factory(|knobs| {
            let crowd = Crowd::new(knobs);
            Box::new(move |person| {
                let (temper, senses) = crowd.draw(person);
                Box::new(Brain::new(temper, senses))
            })
        })
}

fn knobs() -> Vec<Knob> {
    vec![
        Knob::real("reaction_ms", 80.0..=900.0, 250.0).unit("ms").help("mean reaction time of the population"),
        Knob::real("reaction_spread_ms", 0.0..=300.0, 30.0)
            .unit("ms")
            .help("spread of one person's reactions from glance to glance"),
        Knob::real("aim_noise", 0.0..=1.5, 0.22).unit("m").help("standard deviation of perceived distance"),
        Knob::real("timing_ms", 0.0..=300.0, 45.0).unit("ms").help("spread of the moment of a parry"),
        Knob::real("lapses", 0.0..=120.0, 8.0).unit("1/min").help("lapses of attention a minute"),
        Knob::real("lapse_ms", 0.0..=3000.0, 350.0).unit("ms").help("length of a lapse"),
        Knob::real("distance", 0.5..=6.0, 2.4).unit("m").help("distance kept between attacks"),
        Knob::real("aggression", 0.0..=20.0, 0.7).unit("1/s").help("attacks a second while the other is near"),
        Knob::real("parry_rate", 0.0..=1.0, 0.4).help("probability that it tries to parry a lunge it sees coming"),
        Knob::real("feint_rate", 0.0..=5.0, 0.1).unit("1/s").help("feints a second while the other is near"),
        Knob::real("top_share", 0.05..=1.0, 0.85).help("share of the top speed used"),
        Knob::real("spread", 0.0..=1.0, 0.15)
            .help("how much people of the population differ: relative spread of every trait"),
        Knob::real("learning", 0.0..=1.0, 0.0)
            .help("how fast practice wears errors down over a series: they are multiplied by matches^(-learning)"),
    ]
}

fn newcomer() -> Knobs {
    Knobs::default()
        .with("reaction_ms", 310.0)
        .with("reaction_spread_ms", 45.0)
        .with("aim_noise", 0.32)
        .with("timing_ms", 80.0)
        .with("lapses", 16.0)
        .with("lapse_ms", 450.0)
        .with("parry_rate", 0.2)
        .with("feint_rate", 0.0)
        .with("aggression", 0.6)
        .with("top_share", 0.75)
        .with("spread", 0.2)
}

fn veteran() -> Knobs {
    Knobs::default()
        .with("reaction_ms", 200.0)
        .with("reaction_spread_ms", 20.0)
        .with("aim_noise", 0.12)
        .with("timing_ms", 25.0)
        .with("lapses", 3.0)
        .with("lapse_ms", 250.0)
        .with("distance", 2.6)
        .with("parry_rate", 0.65)
        .with("feint_rate", 0.25)
        .with("top_share", 0.95)
        .with("spread", 0.1)
}

/// A population of people: means and one relative spread.
#[derive(Clone, Copy)]
struct Crowd {
    temper: Temper,
    senses: Senses,
    spread: f64,
    learning: f64,
}

impl Crowd {
    fn new(knobs: &Knobs) -> Self {
        let ticks = |ms: f64| ms * 1e-3 * TICKS_PER_SECOND;
        Self {
            temper: Temper {
                distance_m: knobs.number("distance"),
                dead_zone_m: 0.15,
                gain: 2.0,
                top_share: knobs.number("top_share"),
                aggression: knobs.number("aggression"),
                parry_rate: knobs.number("parry_rate"),
                feint_rate: knobs.number("feint_rate"),
                timing_sd: ticks(knobs.number("timing_ms")),
            },
            senses: Senses {
                delay: ticks(knobs.number("reaction_ms")),
                delay_sd: ticks(knobs.number("reaction_spread_ms")),
                blur_m: knobs.number("aim_noise"),
                lapse: knobs.number("lapses") / 60.0 * TICK_S,
                lapse_ticks: ticks(knobs.number("lapse_ms")).round() as u32,
            },
            spread: knobs.number("spread"),
            learning: knobs.number("learning"),
        }
    }

    /// Draws a person: every trait times a log-normal factor, so that no sign changes and the median is the knob.
    /// Practice reduces delays, blur, lapses and the spread of parries, not tastes.
    fn draw(&self, mut person: Person) -> (Temper, Senses) {
        let left = person.practised(self.learning);
        let mut vary = |trait_value: f64| trait_value * libm::exp(self.spread * person.chance.normal());
        let temper = Temper {
            distance_m: vary(self.temper.distance_m),
            top_share: vary(self.temper.top_share).min(1.0),
            aggression: vary(self.temper.aggression),
            parry_rate: vary(self.temper.parry_rate).min(1.0),
            feint_rate: vary(self.temper.feint_rate),
            timing_sd: left * vary(self.temper.timing_sd),
            ..self.temper
        };
        let senses = Senses {
            delay: left * vary(self.senses.delay),
            blur_m: left * vary(self.senses.blur_m),
            lapse: left * vary(self.senses.lapse),
            ..self.senses
        };
        (temper, senses)
    }
}
