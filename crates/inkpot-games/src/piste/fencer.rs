//! The `fencer`: a scripted opponent whose every trait is a knob, and one master knob that moves them all.

use inkpot_core::{Agent, AgentKind, Chance, Knob, Knobs};

use super::brain::{Brain, Temper};
use super::game::Piste;
use super::percept::{LONGEST_DELAY, Senses};

/// Spread of its reactions from glance to glance, relative to their mean.
const REACTION_SPREAD: f64 = 0.2;

/// The kind `fencer` with its presets.
pub(crate) fn fencer() -> AgentKind<Piste> {
    knobs()
        .into_iter()
        .fold(
            AgentKind::new("fencer", "keeps its distance, attacks, parries, feints: every trait is a knob"),
            AgentKind::knob,
        )
        .preset("heron", "patient: waits at a distance, parries and ripostes", heron())
        .preset("turnstone", "rushes: close, quick to attack, seldom parries", turnstone())
        .preset("dunlin", "nervous feet: small dead zone, high gain, blurred eyes", dunlin())
        .preset("avocet", "feints to draw a parry, then strikes", avocet())
        .preset("godwit", "all-round: a bit of everything", godwit())
        .factory(|knobs| {
            let (temper, senses) = traits(knobs);
            Box::new(move |_person| Box::new(Brain::new(temper, senses)))
        })
}

impl Brain {
    /// The fencer of this skill, 0 to 1, every other knob following it.
    pub fn of_skill(skill: f64, chance: Chance) -> Self {
        let knobs = Knobs::default().with("skill", skill.clamp(0.0, 1.0)).resolve(&knobs());
        let (temper, senses) = traits(&knobs.expect("every follower stays within its range"));
        let mut brain = Self::new(temper, senses);
        brain.begin(0, chance);
        brain
    }
}

fn knobs() -> Vec<Knob> {
    vec![
        Knob::real("skill", 0.0..=1.0, 0.5)
            .help("master knob: moves all the others along their curves, 0 hopeless, 1 formidable"),
        Knob::real("reaction", 0.0..=LONGEST_DELAY as f64, 14.0)
            .unit("ticks")
            .help("how late it sees what the other does")
            .follows("skill", |s| 21.0 - 10.0 * s),
        Knob::real("read_noise", 0.0..=1.5, 0.2)
            .unit("m")
            .help("standard deviation of the distance it perceives")
            .follows("skill", |s| 0.08 + 0.48 * (1.0 - s)),
        Knob::real("distance", 0.5..=6.0, 2.5)
            .unit("m")
            .help("distance it keeps between attacks")
            .follows("skill", |s| 2.0 + 0.6 * s),
        Knob::real("dead_zone", 0.0..=1.0, 0.2)
            .unit("m")
            .help("error in distance that it tolerates; a small one makes nervous feet")
            .follows("skill", |s| 0.05 + 0.2 * s),
        Knob::real("gain", 0.1..=10.0, 2.0)
            .unit("1/m")
            .help("throttle for each metre of error; a high one overshoots")
            .follows("skill", |s| 3.0 - 1.5 * s),
        Knob::real("top_share", 0.05..=1.0, 0.8)
            .help("share of the top speed it uses")
            .follows("skill", |s| 0.5 + 0.4 * s),
        Knob::real("aggression", 0.0..=20.0, 0.8)
            .unit("1/s")
            .help("attacks a second while the other is near")
            .follows("skill", |s| 0.2 + 0.5 * s),
        Knob::real("parry_rate", 0.0..=1.0, 0.4)
            .help("probability that it parries a lunge it sees coming; otherwise it steps back")
            .follows("skill", |s| 0.05 + 0.6 * s),
        Knob::real("feint_rate", 0.0..=5.0, 0.1)
            .unit("1/s")
            .help("feints a second while the other is near")
            .follows("skill", |s| 0.3 * s),
    ]
}

fn traits(knobs: &Knobs) -> (Temper, Senses) {
    let temper = Temper {
        distance_m: knobs.number("distance"),
        dead_zone_m: knobs.number("dead_zone"),
        gain: knobs.number("gain"),
        top_share: knobs.number("top_share"),
        aggression: knobs.number("aggression"),
        parry_rate: knobs.number("parry_rate"),
        feint_rate: knobs.number("feint_rate"),
        timing_sd: 0.0,
    };
    let senses = Senses {
        delay: knobs.number("reaction"),
        delay_sd: REACTION_SPREAD * knobs.number("reaction"),
        blur_m: knobs.number("read_noise"),
        ..Senses::default()
    };
    (temper, senses)
}

fn heron() -> Knobs {
    Knobs::default()
        .with("skill", 0.6)
        .with("reaction", 13.0)
        .with("distance", 2.7)
        .with("aggression", 0.4)
        .with("parry_rate", 0.8)
        .with("feint_rate", 0.0)
}

fn turnstone() -> Knobs {
    Knobs::default()
        .with("skill", 0.6)
        .with("distance", 2.2)
        .with("aggression", 1.2)
        .with("parry_rate", 0.1)
        .with("feint_rate", 0.0)
}

fn dunlin() -> Knobs {
    Knobs::default()
        .with("skill", 0.65)
        .with("dead_zone", 0.0)
        .with("gain", 8.0)
        .with("read_noise", 0.3)
        .with("top_share", 1.0)
}

fn avocet() -> Knobs {
    Knobs::default()
        .with("skill", 0.7)
        .with("distance", 2.7)
        .with("aggression", 0.7)
        .with("parry_rate", 0.3)
        .with("feint_rate", 2.5)
}

fn godwit() -> Knobs {
    Knobs::default().with("skill", 0.65)
}
