//! The house games keep what every game promises, and what their capabilities do.

use inkpot_core::KnobValue;
use inkpot_core::{Broken, Conformance, Knobs};
use inkpot_games::{berths, piste, regatta, sowing};

#[test]
fn piste_keeps_what_it_promises() -> Result<(), Broken> {
    let entry = piste::entry();
    Conformance::of(&entry)
        .playing(4, 600)
        .options()
        .imagined()
        .appraised(piste::Piste::weights())
        .pictured()
        .featured()
        .agents()
        .check()
}

#[test]
fn regatta_keeps_what_it_promises() -> Result<(), Broken> {
    let entry = regatta::entry();
    let mut strict = Knobs::default().with("rays", 4.0);
    strict.set("rudder", KnobValue::Word("discrete".into()));
    strict.set("grounding", KnobValue::Word("retire".into()));
    Conformance::of(&entry).playing(3, 900).rules(strict).options().pictured().featured().agents().check()
}

#[test]
fn sowing_keeps_what_it_promises() -> Result<(), Broken> {
    let entry = sowing::entry();
    Conformance::of(&entry)
        .rules(Knobs::default().with("pits", 3.0).with("seeds", 2.0).with("opening", 2.0))
        .options()
        .imagined()
        .appraised(sowing::Sowing::weights())
        .keyed()
        .noted()
        .agents()
        .check()
}

#[test]
fn berths_keeps_what_it_promises() -> Result<(), Broken> {
    let entry = berths::entry();
    for (width, length) in [(4.0, 4.0), (8.0, 3.0)] {
        let rules = Knobs::default().with("width", width).with("length", length);
        let promises = Conformance::of(&entry)
            .rules(rules)
            .options()
            .imagined()
            .appraised(berths::Berths::weights())
            .keyed()
            .noted();
        promises.agents().check()?;
    }
    Ok(())
}
