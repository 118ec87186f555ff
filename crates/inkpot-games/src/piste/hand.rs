//! How a person fences: the keys of the feet hold, those of the blade act once.

use inkpot_core::{ByHand, Control, Seat};

use super::fighter::Phase;
use super::game::{Blade, Order, Piste};

const LEFT: usize = 0;
const RIGHT: usize = 1;
const LUNGE: usize = 3;
const PARRY: usize = 4;

impl ByHand for Piste {
    fn controls() -> Vec<Control> {
        let feet = |name, help, keys| Control { name, help, keys, holds: true };
        let blade = |name, help, keys| Control { name, help, keys, holds: false };
        vec![
            feet("left", "run to the left", &["left", "a"]),
            feet("right", "run to the right", &["right", "d"]),
            feet("stand", "stand still", &["down", "s"]),
            blade("lunge", "lunge", &["space", "j"]),
            blade("parry", "parry", &["up", "k"]),
        ]
    }

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
