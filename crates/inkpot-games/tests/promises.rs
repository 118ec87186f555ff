//! The house games keep what every game promises, and what their capabilities do.

use inkpot_core::{Broken, Conformance, Knobs};
use inkpot_games::{piste, sowing};

#[test]
fn piste_keeps_what_it_promises() -> Result<(), Broken> {
    let entry = piste::entry();
    Conformance::of(&entry).playing(4, 600).options().imagined().appraised().pictured().agents().check()
}

#[test]
fn sowing_keeps_what_it_promises() -> Result<(), Broken> {
    let entry = sowing::entry();
    Conformance::of(&entry)
        .rules(Knobs::default().with("pits", 3.0).with("seeds", 2.0).with("opening", 2.0))
        .options()
        .imagined()
        .appraised()
        .keyed()
        .noted()
        .agents()
        .check()
}
