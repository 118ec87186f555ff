//! Tests of an evolution on given plays, without playing.

use inkpot_core::{GameEntry, KnobValue, Knobs, Registry};
use inkpot_learn::Genome;

use super::repetition::Repetition;
use super::{Evolve, EvolveDraft, NicheDraft, RivalsDraft, resolve_evolve};
use crate::kinds::found::{
    Aim, AimDraft, Comparison, Ended, Evaluation, EvolutionName, GeneDraft, HistoryLine, How, Looks, MapAxis, MapFound,
    MethodDraft, MethodName, NicheFound, Pick, Purpose, SearchFound, StoppedBy, SubjectDraft, TermDraft,
    YardstickDraft, best_of, judged, named, read_evolution, spent_until,
};
use crate::{EntrantDraft, FreeDraft};

fn gene(knob: &str, low: f64, high: f64, scale: &str) -> GeneDraft {
    let free = FreeDraft { knob: knob.into(), low: Some(low), high: Some(high), ..FreeDraft::default() };
    GeneDraft { free, scale: Some(scale.into()) }
}

/// A search for a fencer against `heron`, with two free knobs and two terms.
fn draft() -> EvolveDraft {
    let term = |figure: &str, weight: f64| TermDraft {
        figure: figure.into(),
        weight: Some(weight),
        missing: Some(-1.0),
        ..TermDraft::default()
    };
    let aim = AimDraft {
        game: "piste".into(),
        subject: SubjectDraft { agent: "fencer".into(), ..SubjectDraft::default() },
        free: vec![gene("skill", 0.2, 0.6, "linear"), gene("reaction", 4.0, 16.0, "log")],
        method: MethodDraft { name: Some("genetic".into()), knobs: Knobs::default().with("population", 4.0) },
        terms: vec![term("win_rate", 1.0), term("score_margin", 0.5)],
        opponents: vec![EntrantDraft { agent: "heron".into(), ..EntrantDraft::default() }],
        seeds: Some(3),
        yardstick: YardstickDraft { target: Some(0.5), matches: Some(4), ..YardstickDraft::default() },
        ..AimDraft::default()
    };
    EvolveDraft { aim, blocks: Some(2), matches: Some(1_000), ..EvolveDraft::default() }
}

fn evolve(change: impl FnOnce(&mut EvolveDraft)) -> (Evolve, Registry) {
    let (mut draft, registry) = (draft(), inkpot_games::registry());
    change(&mut draft);
    let evolve = resolve_evolve(&draft, &registry).unwrap_or_else(|problems| panic!("{problems:?}"));
    (evolve, registry)
}

fn piste(registry: &Registry) -> &dyn GameEntry {
    registry.find(&"piste".into()).expect("a house game")
}

/// An evaluation over one block: a term each, the yardstick's figure, matches and ticks.
fn evaluation(evolve: &Evolve, win_rate: f64, margin: f64, yardstick: f64) -> Evaluation {
    Evaluation::of(&evolve.aim, &[], &[vec![win_rate, margin, yardstick, 2.0, 600.0]])
}

#[test]
fn fitness_is_the_weighted_sum_of_terms_or_the_terms_in_turn() {
    let (summed, _) = evolve(|_| {});
    let (in_turn, _) = evolve(|draft| draft.aim.in_turn = Some(true));
    let values = |evolve: &Evolve, win_rate: f64, margin: f64| {
        judged(&evolve.aim, &[evaluation(evolve, win_rate, margin, 0.0)])[0].fitness.values().to_vec()
    };
    assert_eq!(values(&summed, 0.5, 3.0), [2.0]);
    assert_eq!(values(&in_turn, 0.5, 3.0), [0.5, 1.5]);
    let better = |evolve: &Evolve| {
        let both = [evaluation(evolve, 0.5, 3.0, 0.0), evaluation(evolve, 0.6, 0.0, 0.0)];
        best_of(&judged(&evolve.aim, &both))
    };
    assert_eq!((better(&summed), better(&in_turn)), (0, 1), "a first term decides where terms are compared in turn");
}

#[test]
fn of_equals_the_first_is_the_best() {
    let (evolve, _) = evolve(|_| {});
    let both = [0.4, 0.6, 0.6].map(|rate| evaluation(&evolve, rate, 0.0, 0.0));
    assert_eq!(best_of(&judged(&evolve.aim, &both)), 1);
}

#[test]
fn an_evaluation_takes_means_over_the_blocks_that_have_a_value() {
    let (evolve, _) = evolve(|_| {});
    let blocks = [vec![1.0, f64::NAN, 0.0, 2.0, 100.0], vec![0.0, 4.0, 1.0, 2.0, 300.0]];
    let evaluation = Evaluation::of(&evolve.aim, &[], &blocks);
    assert_eq!((evaluation.figures.terms.as_slice(), evaluation.figures.outcome), ([0.5, 4.0].as_slice(), 0.5));
    assert_eq!((evaluation.matches, evaluation.steps), (4, 400));
    assert_eq!(evaluation.outcomes, [0.0, 1.0]);
}

#[test]
fn a_gene_is_a_share_of_its_range_or_of_the_logarithms_of_its_ends() {
    let (evolve, _) = evolve(|_| {});
    let values = |shares: [f64; 2]| {
        let values = evolve.aim.candidate.values(&Genome::Numbers(shares.to_vec()));
        values.iter().map(|value| value.number().expect("a number")).collect::<Vec<_>>()
    };
    assert_eq!(values([0.0, 0.0]), [0.2, 4.0]);
    assert_eq!(values([1.0, 1.0]), [0.6, 16.0]);
    assert_eq!(values([0.25, 0.5]), [0.3, 8.0], "half of the way from 4 to 16 by factors is 8");
    // Four digits: what candidates play with is what people are given.
    assert_eq!(values([1.0 / 3.0, 0.0])[0], 0.3333);
}

#[test]
fn candidates_keep_the_knobs_that_are_set_beside_the_free_ones() {
    let (evolve, _) = evolve(|draft| draft.aim.subject.knobs = Knobs::default().with("gain", 0.7));
    let turned = evolve.aim.candidate.turned(&Genome::Numbers(vec![0.5, 0.0]));
    let number = |name: &str| turned.get(name).and_then(KnobValue::number);
    assert_eq!(["skill", "reaction", "gain"].map(number), [Some(0.4), Some(4.0), Some(0.7)]);
    assert_eq!(turned.iter().count(), 3, "all others are left to their defaults");
}

#[test]
fn a_repetition_plays_a_generation_then_looks_then_compares_its_best() {
    let (evolve, registry) = evolve(|draft| draft.aim.yardstick.every = Some(1));
    let game = piste(&registry);
    let mut repetition = Repetition::new(&evolve, 0);
    let plays = repetition.plays(&evolve, 0, game);
    assert_eq!(plays.len(), 4, "a play a candidate");
    assert!(plays.iter().all(|play| play.first_block == 0 && play.blocks == 2));
    let rates = [0.1, 0.9, 0.3, 0.2].map(|rate| evaluation(&evolve, rate, 0.0, 0.0));
    repetition.take(&evolve, 0, rates.into(), game).expect("all have a fitness");
    assert_eq!((repetition.matches, repetition.steps), (8, 2_400));
    // The best of the first generation stands on the yardstick beside the second.
    let plays = repetition.plays(&evolve, 0, game);
    assert_eq!(plays.len(), 5);
    assert!(plays[..4].iter().all(|play| play.first_block == 2), "fresh blocks for each generation");
    assert!(plays[4].first_block > 1 << 35, "and those of looks apart from all");
    let best = repetition.looks.due().expect("a look is due").genome.clone();
    let mut evaluations: Vec<Evaluation> = [0.1, 0.2, 0.3, 0.4].map(|x| evaluation(&evolve, x, 0.0, 0.0)).into();
    evaluations.push(evaluation(&evolve, 0.7, 0.0, 0.6));
    repetition.take(&evolve, 0, evaluations, game).expect("all have a fitness");
    let look = &repetition.looks.all[0];
    assert_eq!((look.figures.outcome, &look.pick.genome), (0.6, &best));
    repetition.stopped = Some(StoppedBy::Budget);
    // The look reached the target, and fresh blocks of its candidate come before anything else; these do not hold it.
    assert_eq!(repetition.plays(&evolve, 0, game).len(), 1);
    repetition.take(&evolve, 0, vec![evaluation(&evolve, 0.1, 0.0, 0.1)], game).expect("it has a fitness");
    assert!(repetition.looks.confirmed().is_none());
    // What was due is looked at still, then the best looks meet once more, and the better is the champion.
    while repetition.looks.are_due() {
        let count = repetition.plays(&evolve, 0, game).len();
        let evaluations = (0..count).map(|_| evaluation(&evolve, 0.1, 0.0, 0.1)).collect();
        repetition.take(&evolve, 0, evaluations, game).expect("all have a fitness");
    }
    let finalists = repetition.plays(&evolve, 0, game).len();
    assert_eq!(finalists, repetition.looks.all.len());
    let evaluations = (0..finalists).map(|place| evaluation(&evolve, place as f64, 0.0, 0.5)).collect();
    repetition.take(&evolve, 0, evaluations, game).expect("all have a fitness");
    // Finalists stand in the order of what they were worth, so the last of them did best in the comparison.
    let champion = repetition.looks.champion().expect("a champion");
    assert_eq!(champion.figures.outcome, if finalists == 1 { 0.6 } else { 0.1 });
    assert!(repetition.plays(&evolve, 0, game).is_empty(), "nothing is left to play");
}

#[test]
fn a_term_without_a_value_and_without_a_word_for_it_ends_the_search() {
    let (evolve, registry) = evolve(|_| {});
    let mut repetition = Repetition::new(&evolve, 0);
    let evaluations = [0.1, f64::NAN, 0.3, 0.2].map(|x| evaluation(&evolve, x, 0.0, 0.0));
    let error = repetition.take(&evolve, 0, evaluations.into(), piste(&registry)).expect_err("one has no fitness");
    assert!(error.contains("1 of 4 candidates") && error.contains("`win_rate`"), "{error}");
}

#[test]
fn a_state_that_was_written_and_read_asks_for_the_same_plays() {
    let (evolve, registry) = evolve(|_| {});
    let game = piste(&registry);
    let mut repetition = Repetition::new(&evolve, 1);
    for round in 0..5 {
        let count = repetition.plays(&evolve, 1, game).len();
        let value = |place: usize| ((place * 7 + round) % 5) as f64 / 20.0;
        let evaluations = (0..count).map(|place| evaluation(&evolve, value(place), 0.3, 0.1)).collect();
        repetition.take(&evolve, 1, evaluations, game).expect("all have a fitness");
        let text = serde_json::to_string(&repetition).expect("a state is plain data");
        let read: Repetition = serde_json::from_str(&text).expect("it is read back");
        assert_eq!(read, repetition, "round {round}");
        assert_eq!(read.plays(&evolve, 1, game), repetition.plays(&evolve, 1, game), "round {round}");
    }
    let other = Repetition::new(&evolve, 0).plays(&evolve, 0, game);
    assert_ne!(other, Repetition::new(&evolve, 1).plays(&evolve, 1, game), "each repetition has a seed of its own");
}

#[test]
fn two_populations_meet_each_other_and_one_meets_its_own() {
    let rivals = |populations: u64| RivalsDraft {
        populations: Some(populations),
        current: Some(2),
        past: Some(1),
        hall_of_fame: Some(10),
    };
    for populations in [1, 2] {
        let (evolve, registry) = evolve(|draft| {
            draft.aim.opponents.clear();
            draft.aim.yardstick.opponents = vec![EntrantDraft { agent: "heron".into(), ..EntrantDraft::default() }];
            draft.rivals = Some(rivals(populations));
        });
        let plays = Repetition::new(&evolve, 0).plays(&evolve, 0, piste(&registry));
        assert_eq!(plays.len() as u64, 4 * populations);
        // Nobody is in the hall of fame yet.
        assert!(plays.iter().all(|play| play.settings.len() == 2), "two rivals of the generation that plays now");
        assert_eq!(evolve.rivals.expect("rivals").most(), 3);
        assert_eq!(evolve.matches_a_generation(), 4 * populations * 2 * 2 * 3);
    }
}

#[test]
fn looks_that_cannot_win_any_more_forget_their_genomes() {
    let (evolve, registry) = evolve(|draft| draft.aim.yardstick.target = None);
    let game = piste(&registry);
    let mut looks = Looks::default();
    for round in 0..9_u64 {
        let genome = Genome::Numbers(vec![round as f64 / 10.0; 2]);
        let seen = evaluation(&evolve, 0.0, 0.0, 0.0).figures;
        looks.next(Pick { generation: round + 1, matches: round, genome, seen }, true, false);
        // The third is the best, the later the worse.
        let win_rate = if round == 2 { 0.9 } else { 0.5 - round as f64 / 100.0 };
        looks.take(&evolve.aim, std::iter::once(evaluation(&evolve, win_rate, 0.0, win_rate)), game);
    }
    looks.thin(&evolve.aim);
    let whole: Vec<usize> = (0..9).filter(|place| looks.all[*place].pick.genome != Genome::Numbers(vec![])).collect();
    assert_eq!(whole, [0, 1, 2, 3, 4, 8], "the five best, and the last of all");
    assert_eq!(looks.last_plays(&evolve.aim, 0, game).len(), 5);
    assert_eq!(looks.of_generation(3).expect("it was looked at").figures.outcome, 0.9);
}

/// Returns one look at a candidate with the result `outcome`.
fn look(looks: &mut Looks, evolve: &Evolve, generation: u64, outcome: f64, game: &dyn GameEntry) {
    let seen = evaluation(evolve, 0.0, 0.0, 0.0).figures;
    let genome = Genome::Numbers(vec![generation as f64 / 10.0; 2]);
    looks.next(Pick { generation, matches: 10 * generation, genome, seen }, true, false);
    looks.take(&evolve.aim, std::iter::once(evaluation(evolve, outcome, 0.0, outcome)), game);
}

/// An evaluation of this many fresh blocks, each with this outcome.
fn blocks(evolve: &Evolve, count: usize, outcome: f64) -> Evaluation {
    Evaluation::of(&evolve.aim, &[], &vec![vec![outcome, 0.0, outcome, 2.0, 600.0]; count])
}

#[test]
fn a_look_at_the_target_is_believed_once_fresh_blocks_confirm_it() {
    let (evolve, registry) = evolve(|draft| draft.aim.yardstick.matches = Some(40));
    let (game, mut looks) = (piste(&registry), Looks::default());
    look(&mut looks, &evolve, 1, 0.4, game);
    assert!(!looks.is_confirming(), "it falls short");
    look(&mut looks, &evolve, 2, 0.6, game);
    assert!(looks.is_confirming());
    let first = looks.confirming_plays(&evolve.aim, 0, game);
    assert_eq!(first.len(), 1);
    assert_eq!(
        (first[0].blocks, looks.plays_nothing_else(&evolve, game)),
        (80, true),
        "four times a look of 20 blocks"
    );
    assert!(!looks.confirm(&evolve.aim, Some(blocks(&evolve, 80, 0.45)), game), "fresh blocks do not hold what it had");
    assert!(!looks.is_confirming() && looks.confirmed().is_none());
    look(&mut looks, &evolve, 3, 0.9, game);
    let second = looks.confirming_plays(&evolve.aim, 0, game);
    assert!(second[0].first_block >= first[0].first_block + first[0].blocks, "blocks are never played twice");
    // At the target to the last digit: no number of blocks confirms it, and three stages are all that it gets.
    let mut stages = vec![second[0].blocks];
    assert!(!looks.confirm(&evolve.aim, Some(mixed(&evolve, 80)), game));
    while let [play] = looks.confirming_plays(&evolve.aim, 0, game).as_slice() {
        stages.push(play.blocks);
        assert!(!looks.confirm(&evolve.aim, Some(mixed(&evolve, play.blocks as usize)), game));
    }
    assert_eq!(stages, [80, 80, 160]);
    look(&mut looks, &evolve, 4, 0.9, game);
    assert!(looks.confirm(&evolve.aim, Some(mixed_up(&evolve, 80)), game), "eight wins of ten, 80 times");
    let confirmed = looks.confirmed().map(|look| look.pick.generation);
    assert_eq!((confirmed, looks.before_confirmed().map(|look| look.pick.generation)), (Some(4), Some(3)));
    assert_eq!(looks.champion().map(|look| look.pick.generation), Some(4), "what is confirmed is the champion");
    assert!(looks.last_plays(&evolve.aim, 0, game).is_empty(), "and need not be compared with others");
}

/// Half of the blocks won, half lost.
fn mixed(evolve: &Evolve, count: usize) -> Evaluation {
    let blocks: Vec<_> = (0..count).map(|block| (block % 2) as f64).map(|x| vec![x, 0.0, x, 2.0, 600.0]).collect();
    Evaluation::of(&evolve.aim, &[], &blocks)
}

/// Eight of ten blocks won.
fn mixed_up(evolve: &Evolve, count: usize) -> Evaluation {
    let won = |block: usize| f64::from(u8::from(block % 10 < 8));
    let blocks: Vec<_> = (0..count).map(won).map(|x| vec![x, 0.0, x, 2.0, 600.0]).collect();
    Evaluation::of(&evolve.aim, &[], &blocks)
}

impl Looks {
    /// Whether it plays the confirmation of a look, and nothing else.
    fn plays_nothing_else(&self, evolve: &Evolve, game: &dyn GameEntry) -> bool {
        let hall = Comparison { field: evolve.aim.looking(), seed: 0, blocks: 0 };
        self.plays(&evolve.aim, 0, &hall, game) == self.confirming_plays(&evolve.aim, 0, game)
    }
}

#[test]
fn repetitions_of_neighbouring_seeds_share_no_stream() {
    let streams = |seed: u64| {
        let (evolve, _) = evolve(|draft| draft.aim.seed = Some(seed));
        let each = move |purpose: Purpose| (0..3).map(move |repetition| (purpose, repetition)).collect::<Vec<_>>();
        let named = [Purpose::Learning, Purpose::Looks].into_iter().flat_map(each);
        named.map(|(purpose, repetition)| evolve.aim.stream(purpose, repetition)).collect::<Vec<u64>>()
    };
    let mut all: Vec<u64> = (1..=4).flat_map(streams).chain(1..=4).collect();
    all.sort_unstable();
    all.dedup();
    assert_eq!(all.len(), 4 * 6 + 4, "nor with a batch of any of these seeds");
    let (evolve, _) = evolve(|_| {});
    assert_eq!([0, 1, 2].map(|repetition| evolve.aim.number_of(repetition)), [1, 2, 3]);
}

#[test]
fn a_search_has_spent_what_stands_at_the_look_that_is_confirmed_and_at_the_one_before() {
    let head = "seed,round,matches,steps,best,median,low,high,yardstick,yardstick_low,yardstick_high,held_back,\
                held_back_low,held_back_high,evaluations";
    let line = |seed: u64, round: u64| format!("{seed},{round},{},0,1,1,1,1,0.5,,,,,,{}", 10 * round, 4 * round);
    let lines = [line(1, 1), line(1, 2), line(1, 3), line(2, 1), line(3, 1), "cut,off".into()];
    let history = read_evolution(&format!("{head}\n{}\n", lines.join("\n")));
    assert_eq!(history.len(), 5, "a line that is none is left out");
    let (evolve, registry) = evolve(|_| {});
    let mut ended = vec![Looks::default(), Looks::default(), Looks::default()];
    for looks in &mut ended {
        look(looks, &evolve, 1, 0.1, piste(&registry));
    }
    let mut found = SearchFound::of_looks(&evolve.aim, &ended);
    (found.seeds[0].reached, found.seeds[2].reached) = (Some([1, 3]), Some([0, 1]));
    let spent = spent_until(&found, &history, HistoryLine::evaluations);
    assert_eq!(
        spent.iter().map(|spent| (spent.after, spent.by)).collect::<Vec<_>>(),
        [(4.0, 12.0), (f64::INFINITY, f64::INFINITY), (0.0, 4.0)]
    );
}

impl SearchFound {
    /// A search whose repetitions have these looks.
    fn of_looks(aim: &Aim, looks: &[Looks]) -> Self {
        let ended: Vec<_> = looks
            .iter()
            .map(|looks| Ended {
                looks,
                matches: 0,
                steps: 0,
                decisions: None,
                rounds: 1,
                stopped: None,
                legs: Vec::new(),
            })
            .collect();
        let how = How {
            method: MethodName::Evolution(EvolutionName::Genetic),
            fresh_blocks: true,
            learned_on: aim.learned_on(),
            sampled: None,
            notes: Vec::new(),
        };
        Self::of(aim, how, &ended).expect("there are some")
    }
}

#[test]
fn a_niche_holds_an_interval_that_touches_it_and_the_outer_ones_whatever_lies_beyond() {
    let axis = || MapAxis { measure: "speed".into(), low: 0.0, high: 3.0, count: 3 };
    assert_eq!([0, 1, 2].map(|niche| axis().middle(niche)), [0.5, 1.5, 2.5]);
    let interval = |low: f64, high: f64| Some(inkpot_stats::Interval { value: f64::midpoint(low, high), low, high });
    let in_place = |niche: usize, low: f64, high: f64| {
        let found = NicheFound {
            niche: [niche, 0],
            training_fitness: 0.0,
            proved: None,
            measured: [interval(low, high), interval(-9.0, -8.0)],
            knobs: Knobs::default(),
        };
        MapFound { measures: [axis(), axis()], reached: 1, niches: vec![found] }.in_place() == 1
    };
    assert!(in_place(1, 1.2, 1.4) && in_place(1, 1.9, 2.4) && in_place(1, 0.5, 1.0));
    assert!(!in_place(1, 2.1, 2.4) && !in_place(1, 0.5, 0.9));
    assert!(in_place(0, -5.0, -4.0) && in_place(2, 7.0, 8.0) && !in_place(2, 1.0, 1.9));
}

#[test]
fn a_map_of_elites_needs_niches_and_no_other_method_takes_them() {
    let niche = |measure: &str| NicheDraft { measure: measure.into(), ..NicheDraft::default() };
    let registry = inkpot_games::registry();
    let measures = &piste(&registry).sheet().measures;
    let names: Vec<String> = measures.iter().take(2).map(|measure| measure.name.clone()).collect();
    let problems = |name: &str, niches: Vec<NicheDraft>| {
        let mut draft = draft();
        draft.aim.method = MethodDraft { name: Some(name.into()), knobs: Knobs::default() };
        draft.niches = niches;
        resolve_evolve(&draft, &inkpot_games::registry()).err().unwrap_or_default().len()
    };
    assert!(problems("genetic", vec![niche(&names[0])]) > 0);
    assert!(problems("map-elites", Vec::new()) > 0);
}

#[test]
fn knobs_under_another_file_name_keep_their_bytes() {
    let file = KnobValue::File { file: "old.safetensors".into(), bytes: inkpot_core::Bytes(vec![1, 2, 3].into()) };
    let knobs: Knobs =
        [("file".to_string(), file), ("temper".to_string(), KnobValue::Number(0.5))].into_iter().collect();
    let renamed = named(&knobs, "new.safetensors");
    let Some(KnobValue::File { file, bytes }) = renamed.get("file") else { panic!("it is a file") };
    assert_eq!((file.as_str(), &bytes.0[..]), ("new.safetensors", &[1_u8, 2, 3][..]));
    assert_eq!(renamed.get("temper").and_then(KnobValue::number), Some(0.5));
}

#[test]
fn what_changes_nothing_or_cannot_be_is_refused_with_its_place() {
    type Change = fn(&mut EvolveDraft);
    let cases: [(&str, &str, Change); 16] = [
        ("term", "", |draft| draft.aim.terms.clear()),
        ("term[0].figure", "`wins`", |draft| draft.aim.terms[0].figure = "wins".into()),
        ("subject.agent", "`fencr`", |draft| draft.aim.subject.agent = "fencr".into()),
        ("subject.layers", "`layers` says nothing here", |draft| draft.aim.subject.layers = Some(vec![8.0])),
        ("subject.activation", "`activation` says nothing", |draft| draft.aim.subject.activation = Some("relu".into())),
        ("subject.steps", "`steps` says nothing here", |draft| draft.aim.subject.steps = Some(5)),
        ("free[0]", "both set and free", |draft| {
            draft.aim.subject.knobs = Knobs::default().with("skill", 0.5);
        }),
        ("free[0].scale", "`cubic`", |draft| draft.aim.free[0].scale = Some("cubic".into())),
        ("method.name", "`anneal`", |draft| draft.aim.method.name = Some("anneal".into())),
        ("method.name", "topology evolves networks", |draft| draft.aim.method.name = Some("topology".into())),
        ("method", "`population`", |draft| {
            draft.aim.method.knobs = Knobs::default().with("population", -3.0);
        }),
        ("yardstick.figure", "`glory`", |draft| draft.aim.yardstick.figure = Some("glory".into())),
        ("yardstick.target", "is a share, and 95 is none", |draft| draft.aim.yardstick.target = Some(95.0)),
        ("yardstick.target", "no number of matches shows", |draft| draft.aim.yardstick.target = Some(1.0)),
        ("opponent[0]", "`hern`", |draft| draft.aim.opponents[0].agent = "hern".into()),
        ("", "no opponent", |draft| draft.aim.opponents.clear()),
    ];
    for (place, what, change) in cases {
        let mut draft = draft();
        change(&mut draft);
        let problems = resolve_evolve(&draft, &inkpot_games::registry()).expect_err(what);
        let all: Vec<String> = problems.iter().map(|problem| format!("{}: {}", problem.at, problem.what)).collect();
        let found = problems.iter().any(|problem| {
            problem.at.to_string().starts_with(place) && problem.what.contains(what) && !problem.help.is_empty()
        });
        assert!(found, "{place}: {what} is not among {all:?}");
    }
}

#[test]
fn the_space_of_a_network_has_a_gene_a_weight_and_that_of_a_tape_one_an_action() {
    let genes = |change: fn(&mut EvolveDraft)| {
        let (evolve, _) = evolve(|draft| {
            draft.aim.game = "regatta".into();
            draft.aim.free.clear();
            draft.aim.opponents.clear();
            draft.aim.terms.truncate(1);
            draft.aim.terms[0].figure = "water_left_m".into();
            draft.aim.yardstick = YardstickDraft::default();
            change(draft);
        });
        evolve.aim.candidate.space().len()
    };
    let (_, registry) = evolve(|_| {});
    let regatta = registry.find(&"regatta".into()).expect("a house game");
    let rules = Knobs::default().resolve(&regatta.sheet().rules).expect("the defaults");
    let features = regatta.features(&rules).expect("boats have features");
    let (read, write) = (features.observation.len(), features.actions.outputs());
    let network = genes(|draft| {
        draft.aim.subject = SubjectDraft { agent: "policy".into(), layers: Some(vec![5.0]), ..SubjectDraft::default() };
    });
    assert_eq!(network, (read + 1) * 5 + 6 * write);
    let tape = genes(|draft| {
        draft.aim.subject = SubjectDraft { agent: "tape".into(), steps: Some(7), ..SubjectDraft::default() };
    });
    assert_eq!(tape, 7 * write);
}
