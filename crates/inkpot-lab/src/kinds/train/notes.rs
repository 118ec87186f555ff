//! Notes on trainings.

use super::asked::{FEW, SHORT, Train};
use super::learner::Learner;
use super::repetition::Repetition;
use crate::counts::{count, counted};
use crate::kinds::found::{
    Shape, TrainingName, apart, fell_back, has_risen, is_without_success, never_succeeded, of_repetition,
};
use crate::note::Note;

/// An option with a smaller share than this is hardly ever taken; where all others together have no more, it is always.
const NEVER: f64 = 0.001;
/// A value estimate that explains less of the returns than this explains nothing.
const NOTHING: f64 = 0.05;
/// Rounds at the end over which that is looked at.
const LAST: usize = 5;
/// Lengths of matches that differ by less than this share are alike.
const ALIKE: f64 = 0.05;
/// A share above this is near to all there is.
const HIGH: f64 = 0.9;

/// Returns the notes on the repetitions, which are stored with the proof.
pub(super) fn of_search(train: &Train, repetitions: &[Repetition], ticks_per_second: Option<f64>) -> Vec<String> {
    let mut notes = Vec::new();
    for (number, repetition) in repetitions.iter().enumerate() {
        let number = train.aim.number_of(number);
        let each = [
            (Note::Diverged, repetition.diverged.map(diverged)),
            (Note::WrongFitness, apart(&train.aim, &repetition.looks, "reward")),
            (Note::NoSuccess, never_succeeded(&train.aim, &repetition.looks, "reward")),
            (Note::Stuck, to_the_end(train, repetition, ticks_per_second)),
            (Note::FewMatches, few_matches(train, repetition)),
            (Note::ShortDiscount, short_sighted(train, repetition, ticks_per_second)),
            (Note::Collapsed, collapsed(train, repetition)),
            (Note::OneOption, one_sided(train, repetition)),
            (Note::BlindValue, explains_nothing(repetition)),
            (Note::OutOfRange, outside(train, &repetition.outside)),
            (Note::NotPassed, not_passed(train, repetition)),
            (Note::Exact, exact(repetition)),
            (Note::LowerBound, lower_bound(train, repetition)),
        ];
        notes.extend(of_repetition(number, each));
    }
    notes.extend(ceiling(train, repetitions));
    notes
}

/// Returns the note on a training that diverged.
fn diverged(steps: u64) -> String {
    format!("learning diverged at step {} and stopped there; lower the `rate`", count(steps))
}

/// Returns the note that an exact search can give the ceiling, if a table learned against one opponent and does not win
/// nearly all.
fn ceiling(train: &Train, repetitions: &[Repetition]) -> Option<String> {
    let yardstick = &train.aim.yardstick;
    let [opponent] = yardstick.opponents.as_slice() else { return None };
    let learns = train.method.name.learns_positions() && train.method.name != TrainingName::Exact;
    (learns && yardstick.is_share && !repetitions.iter().all(|repetition| is_high(train, repetition))).then(|| {
        Note::Ceiling.says(format!(
            "no agent takes more from `{}` than its best response, and the figure may lie near that. Train `name = \"exact\"` in \
             [method] against `{}` alone to see how much is left",
            opponent.name, opponent.name
        ))
    })
}

/// Whether it learned nothing visible: no success, and no rise over its looks.
fn is_stuck(train: &Train, repetition: &Repetition) -> bool {
    let looks = &repetition.looks;
    is_without_success(&train.aim, looks)
        || (train.aim.yardstick.is_share && !has_risen(&train.aim, looks) && !is_high(train, repetition))
}

/// Whether its last look is near to all there is of a share.
fn is_high(train: &Train, repetition: &Repetition) -> bool {
    let last = repetition.looks.all.last().map_or(0.0, |look| look.figures.outcome);
    if train.aim.yardstick.less { last < 1.0 - HIGH } else { last > HIGH }
}

/// Whether its matches last as long as any did, and none succeeds: as of a boat that lies head to wind.
fn to_the_end(train: &Train, repetition: &Repetition, ticks_per_second: Option<f64>) -> Option<String> {
    let mut before = (0, 0);
    let lengths = repetition.rounds.iter().filter_map(|round| {
        let (matches, ticks) = (round.matches - before.0, round.ticks - before.1);
        before = (round.matches, round.ticks);
        (matches > 0).then(|| ticks as f64 / matches as f64)
    });
    let lengths: Vec<f64> = lengths.collect();
    let longest = lengths.iter().copied().fold(0.0, f64::max);
    let lately = lengths.iter().rev().take(LAST);
    let goes_on = lengths.len() >= LAST && lately.clone().all(|length| *length > (1.0 - ALIKE) * longest);
    let mean = lately.sum::<f64>() / LAST as f64;
    let lasts = match ticks_per_second {
        Some(rate) => format!("{:.0} s", mean / rate),
        None => format!("{mean:.0} turns"),
    };
    (goes_on && is_without_success(&train.aim, &repetition.looks)).then(|| {
        format!("its last matches took {lasts} on average, as long as any, so it may be stuck; watch its champion")
    })
}

/// Whether it learned from few matches, and has nothing to show.
fn few_matches(train: &Train, repetition: &Repetition) -> Option<String> {
    if repetition.matches as f64 >= FEW || train.method.name.learns_positions() || !is_stuck(train, repetition) {
        return None;
    }
    let (steps, matches) = (repetition.rounds.last()?.steps, repetition.matches);
    let usual = train.usual_decide_every();
    let slower = if train.decide_every() < usual {
        format!(", or decide less often (`decide_every = {usual}`)")
    } else {
        String::new()
    };
    Some(format!(
        "its {} were {}, and so few seldom teach a network anything; give it more `steps`{slower}",
        counted(steps, "decision", "decisions"),
        counted(matches, "match", "matches")
    ))
}

/// Whether its discount looks but a small part of a match ahead, and it has nothing to show.
fn short_sighted(train: &Train, repetition: &Repetition, ticks_per_second: Option<f64>) -> Option<String> {
    if train.method.name.learns_positions() || repetition.matches == 0 || !is_stuck(train, repetition) {
        return None;
    }
    let discount = train.method.discount();
    let ahead = train.ahead_ticks();
    let length = repetition.ticks as f64 / repetition.matches as f64;
    let time = |ticks: f64| match ticks_per_second {
        Some(rate) => format!("{:.1} s", ticks / rate),
        None => format!("{ticks:.0} turns"),
    };
    (ahead < length / SHORT).then(|| {
        format!(
            "a discount of {discount} looks {} ahead while its matches take {}, so later effects of a decision count for little; \
             raise `discount`",
            time(ahead),
            time(length)
        )
    })
}

/// Whether it could do far more in the middle of its training than at the end.
fn collapsed(train: &Train, repetition: &Repetition) -> Option<String> {
    let aim = &train.aim;
    let (best, last) = fell_back(aim, &repetition.looks)?;
    let (was, is) = (best.figures.outcome, last.figures.outcome);
    let lost = if aim.yardstick.less { (1.0 - is) < (1.0 - was) / 2.0 } else { is < was / 2.0 };
    (aim.yardstick.is_share && lost).then(|| {
        format!(
            "`{}` collapsed in training, from {was:.3} at look {} to {is:.3} at the last; lower the `rate`",
            aim.yardstick.figure, best.pick.generation
        )
    })
}

/// Figures of observations that lay outside their ranges.
fn outside(train: &Train, counts: &[u64]) -> Option<String> {
    let Shape::Network { features, .. } = &train.aim.candidate.shape else { return None };
    let figures = features.observation.iter().zip(counts).filter(|(_, count)| **count > 0);
    let each: Vec<String> = figures.map(|(figure, count)| format!("`{}` ({count})", figure.name)).collect();
    (!each.is_empty()).then(|| {
        format!("these figures lay outside -1 to 1: {}; correct their ranges in the game's features", each.join(", "))
    })
}

/// Whether the response is the best there is.
fn exact(repetition: &Repetition) -> Option<String> {
    let Learner::Exact(exact) = &repetition.learner else { return None };
    (exact.sampled == 0).then(|| {
        let positions = exact.asked;
        format!("the opponent's chances are known at all of {positions} positions, so no response wins more")
    })
}

/// Whether the response rests on sampled choices.
fn lower_bound(train: &Train, repetition: &Repetition) -> Option<String> {
    let Learner::Exact(exact) = &repetition.learner else { return None };
    let (sampled, positions, draws) = (exact.sampled, exact.asked, train.method.knobs.number("draws"));
    (sampled > 0).then(|| {
        format!(
            "the opponent does not say its chances at {sampled} of {positions} positions, where {draws} sampled choices stand for \
             them; raise `draws` for a closer bound"
        )
    })
}

/// The leg of the course that it did not pass.
fn not_passed(train: &Train, repetition: &Repetition) -> Option<String> {
    let (number, figure) = (repetition.course.leg(), &train.aim.yardstick.figure);
    let leg = train.legs.get(number)?;
    let pass = leg.pass?;
    let last = repetition.course.last().map_or(f64::NAN, |look| look.looked.value);
    Some(format!(
        "it did not pass leg {} of {} (`{}`): `{figure}` was {last:.3} at the last look, below the pass mark of {}. It never learned \
         what comes after",
        number + 1,
        train.legs.len(),
        leg.level,
        pass
    ))
}

/// Options that it hardly takes, or takes always.
fn one_sided(train: &Train, repetition: &Repetition) -> Option<String> {
    let Shape::Network { features, .. } = &train.aim.candidate.shape else { return None };
    let taken = &repetition.rounds.last()?.taken;
    let all = taken.iter().sum::<u64>() as f64;
    let shares: Vec<f64> = taken.iter().map(|count| *count as f64 / all).collect();
    let names = features.actions.names();
    let found = |is: &dyn Fn(f64) -> bool| -> Vec<String> {
        let each = names.iter().zip(&shares).filter(|(_, share)| is(**share));
        each.map(|(name, _)| format!("`{name}`")).collect()
    };
    let (never, always) = (found(&|share| share < NEVER), found(&|share| share > 1.0 - NEVER));
    if let Some(only) = always.first() {
        return Some(format!("it always takes {only}, whatever it observes"));
    }
    (!never.is_empty()).then(|| format!("it takes {} less than once in a thousand decisions", never.join(", ")))
}

/// Whether the value estimate explained hardly anything of the returns at the end.
fn explains_nothing(repetition: &Repetition) -> Option<String> {
    let last = repetition.rounds.iter().rev().take(LAST).filter_map(|round| round.explained);
    let all: Vec<f64> = last.collect();
    let mean = all.iter().sum::<f64>() / all.len() as f64;
    (all.len() == LAST && mean < NOTHING).then(|| {
        format!(
            "its value estimate explains {:.0} % of the variance of the returns, so rewards come too late or too seldom; pay \
             earlier or raise `discount`",
            100.0 * mean.max(0.0)
        )
    })
}

#[cfg(test)]
mod tests {
    use inkpot_core::Knobs;
    use inkpot_learn::Genome;

    use super::super::gathered::Round;
    use super::super::{TrainDraft, resolve_train};
    use super::*;
    use crate::kinds::found::{AimDraft, Figures, Look, MethodDraft, Pick, SubjectDraft, TermDraft};

    /// A boat on the beat that decides and looks ahead like this.
    fn boat(decide_every: f64, discount: f64) -> Train {
        let knobs = Knobs::default().with("decide_every", decide_every);
        let aim = AimDraft {
            game: "regatta".into(),
            subject: SubjectDraft { agent: "policy".into(), knobs, ..SubjectDraft::default() },
            method: MethodDraft { name: Some("ppo".into()), knobs: Knobs::default().with("discount", discount) },
            terms: vec![TermDraft { figure: "water_left_m".into(), weight: Some(-0.1), ..TermDraft::default() }],
            ..AimDraft::default()
        };
        let draft = TrainDraft { aim, ..TrainDraft::default() };
        resolve_train(&draft, &inkpot_games::registry()).expect("the draft is fine")
    }

    /// A repetition with looks of these shares and this many matches of this many ticks before each.
    fn repetition(train: &Train, shares: &[f64], matches: u64, ticks: u64) -> Repetition {
        let mut repetition = Repetition::new(train, 0);
        for (place, share) in shares.iter().enumerate() {
            let number = place as u64 + 1;
            let figures = Figures { terms: vec![50.0], outcome: *share };
            let pick = Pick { generation: number, matches: 0, genome: Genome::File(Vec::new()), seen: figures.clone() };
            let range = Some([share - 0.08, share + 0.08]);
            repetition.looks.all.push(Look { pick, figures: figures.clone(), range, held_back: None });
            repetition.rounds.push(Round {
                matches: number * matches,
                steps: number * 25_000,
                ticks: number * matches * ticks,
                best: 0.0,
                quartiles: vec![0.0; 3],
                figures,
                entropy: None,
                explained: None,
                moved: None,
                loss: 0.0,
                taken: Vec::new(),
                positions: None,
            });
        }
        let last = repetition.rounds.last().expect("a round");
        (repetition.matches, repetition.ticks) = (last.matches, last.ticks);
        repetition
    }

    /// Whether this is among the notes of such a repetition.
    fn is_noted(train: &Train, shares: &[f64], (matches, ticks): (u64, u64), what: &str) -> bool {
        let repetition = repetition(train, shares, matches, ticks);
        of_search(train, &[repetition], Some(10.0)).iter().any(|note| note.contains(what))
    }

    const NEVER_SUCCEEDED: [f64; 8] = [0.0; 8];
    const LEARNED: [f64; 8] = [0.0, 0.1, 0.3, 0.5, 0.7, 0.8, 0.9, 0.95];

    #[test]
    fn matches_that_all_go_on_to_the_end_without_success_are_told() {
        let (train, what) = (boat(5.0, 0.98), "its last matches took 200 s on average");
        assert!(is_noted(&train, &NEVER_SUCCEEDED, (100, 2_000), what));
        assert!(!is_noted(&train, &LEARNED, (100, 2_000), what), "boats that arrive are not stuck");
    }

    #[test]
    fn few_matches_are_told_where_nothing_was_learned() {
        let (train, what) = (boat(1.0, 0.99), "200,000 decisions were 240 matches");
        assert!(is_noted(&train, &NEVER_SUCCEEDED, (30, 1_200), what));
        assert!(is_noted(&train, &NEVER_SUCCEEDED, (30, 1_200), "decide less often (`decide_every = 5`)"));
        assert!(!is_noted(&train, &LEARNED, (30, 1_200), what), "they were enough");
        assert!(!is_noted(&train, &NEVER_SUCCEEDED, (300, 1_200), "seldom teach"), "2,400 are not few");
        assert!(!is_noted(&boat(5.0, 0.99), &NEVER_SUCCEEDED, (30, 1_200), "decide less often"));
    }

    #[test]
    fn a_discount_that_looks_a_step_ahead_is_told_where_nothing_was_learned() {
        let what = "a discount of 0.9 looks 1.0 s ahead while its matches take 120.0 s";
        assert!(is_noted(&boat(1.0, 0.9), &NEVER_SUCCEEDED, (100, 1_200), what));
        assert!(!is_noted(&boat(1.0, 0.9), &LEARNED, (100, 1_200), "looks 1.0 s ahead"));
        assert!(!is_noted(&boat(5.0, 0.98), &NEVER_SUCCEEDED, (100, 1_200), "ahead while its matches"));
    }

    #[test]
    fn a_collapse_is_told_and_a_poor_look_is_not() {
        let (train, what) = (boat(5.0, 0.98), "collapsed in training, from 0.980 at look 5 to 0.005 at the last");
        assert!(is_noted(&train, &[0.1, 0.5, 0.8, 0.9, 0.98, 0.6, 0.1, 0.005], (100, 1_200), what));
        let collapsed = "collapsed in training";
        assert!(!is_noted(&train, &LEARNED, (100, 1_200), collapsed));
        assert!(!is_noted(&train, &[0.1, 0.5, 0.8, 0.9, 0.98, 0.95, 0.9, 0.85], (100, 1_200), collapsed));
    }

    #[test]
    fn a_figure_outside_its_range_is_named_with_how_often() {
        let aim = AimDraft {
            game: "regatta".into(),
            subject: SubjectDraft { agent: "policy".into(), ..SubjectDraft::default() },
            terms: vec![TermDraft { figure: "marks".into(), ..TermDraft::default() }],
            ..AimDraft::default()
        };
        let draft = TrainDraft { aim, ..TrainDraft::default() };
        let train = resolve_train(&draft, &inkpot_games::registry()).unwrap();
        assert_eq!(outside(&train, &[0; 15]), None);
        let message = outside(&train, &[0, 0, 7, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1]).unwrap();
        assert!(message.contains("`mark_m` (7), `ray_8` (1)"), "{message}");
    }
}
