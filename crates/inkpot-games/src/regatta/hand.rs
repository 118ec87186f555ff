//! Controls of a boat.

use inkpot_core::{ByHand, Control, Seat};

use super::game::{Helm, Regatta};

impl Regatta {
    /// The controls of a person.
    pub(crate) fn controls() -> Vec<Control> {
        vec![
            Control::held("port", "steer to port", &["left", "a"]),
            Control::held("starboard", "steer to starboard", &["right", "d"]),
            Control::held("straight", "steer straight on", &["down", "s"]),
        ]
    }
}

impl ByHand for Regatta {
    fn by_hand(&self, _seat: Seat, held: Option<usize>, _tapped: Option<usize>) -> Helm {
        Helm {
            rudder: match held {
                Some(0) => -1.0,
                Some(1) => 1.0,
                _ => 0.0,
            },
        }
    }
}
