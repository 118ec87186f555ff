//! Controls of a fencer: keys of the feet are held, those of the blade tapped.

use inkpot_core::{ByHand, Control, Seat};

use super::fighter::Phase;
use super::game::{Blade, Order, Piste};

const LEFT: usize = 0;
const RIGHT: usize = 1;
const LUNGE: usize = 3;
const PARRY: usize = 4;

impl Piste {
    /// The controls of a person.
    pub(crate) fn controls() -> Vec<Control> {
        vec![
            Control::held("left", "run to the left", &["left", "a"]),
            Control::held("right", "run to the right", &["right", "d"]),
            Control::held("stand", "stand still", &["down", "s"]),
            Control::tapped("lunge", "lunge", &["space", "j"]),
            Control::tapped("parry", "parry", &["up", "k"]),
        ]
    }
}

impl ByHand for Piste {
    /// Left and right are those of the picture. A blade that is busy waits: nobody commits a fault by hand.
    fn by_hand(&self, seat: Seat, held: Option<usize>, tapped: Option<usize>) -> Order {
        let forward = if seat == 0 { 1.0 } else { -1.0 };
        let throttle = match held {
            Some(LEFT) => -forward,
            Some(RIGHT) => forward,
            _ => 0.0,
        };
        let free = self.fighters()[seat].phase == Phase::Free;
        let blade = match tapped.filter(|_| free) {
            Some(LUNGE) => Blade::Lunge,
            Some(PARRY) => Blade::Parry,
            _ => Blade::None,
        };
        Order { throttle, blade }
    }
}
