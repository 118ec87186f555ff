//! Random openings, for games of turns in which agents without chance would else play one match over and over.

use inkpot_core::Chance;

/// Openings tried before one is cut short that always ends the match.
const TRIED: usize = 100;

/// The state `plies` random moves after `start`, where `step` makes one and gives none when it ends the match. An
/// opening that ends the match is drawn again; where every one does, the last is cut short before its end.
pub(crate) fn opened<S: Copy>(
    start: S,
    plies: u32,
    chance: &mut Chance,
    step: impl Fn(&S, &mut Chance) -> Option<S>,
) -> S {
    let mut state = start;
    for _ in 0..TRIED {
        state = start;
        let mut left = plies;
        while left > 0 {
            let Some(next) = step(&state, chance) else { break };
            state = next;
            left -= 1;
        }
        if left == 0 {
            break;
        }
    }
    state
}
