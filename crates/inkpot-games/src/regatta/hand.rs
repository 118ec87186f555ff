//! How a person steers.

use inkpot_core::{ByHand, Control, Seat};

use super::game::{Helm, Regatta};

impl ByHand for Regatta {
    fn controls() -> Vec<Control> {
        let rudder = |name, help, keys| Control { name, help, keys, holds: true };
        vec![
            rudder("port", "steer to port", &["left", "a"]),
            rudder("starboard", "steer to starboard", &["right", "d"]),
            rudder("straight", "steer straight on", &["down", "s"]),
        ]
    }

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
