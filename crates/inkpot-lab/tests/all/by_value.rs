//! Games that are values and have no types of their own, as those have that are read from a file: agents that think,
//! a table and a study play them like any other.

use std::fmt::Write;
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};

use inkpot_agents::{drifter, minimax, networks, policy, tables, treesearch_reusing};
use inkpot_core::{
    Acting, ActionSpace, Advance, Agent, AgentKind, Appraise, Bytes, Casting, Chance, Choices, Conformance, Ending,
    Entry, Feature, FeatureSheet, Features, Game, GameEntry, GameSheet, GaveUp, Halt, Imagine, Intent, Keyed, Knob,
    KnobValue, Knobs, Level, LevelSheet, Measured, Noted, Options, Registry, Seat, SeatSet, Seating, Setting, Sight,
    Verdict, normalised,
};
use inkpot_lab::{Draft, EntrantDraft, Job, PlanJob, Runner, StudySummary, Task, Threads, resolve, summarise};
use inkpot_learn::{Activation, Body, Dense, Gives, Memory, Network, Weights, largest};

/// A game of crates on a quay, of which each in turn takes some; everything about it is a value.
struct Rules {
    name: &'static str,
    crates: u32,
    /// How many may be taken of this many.
    takes: Box<dyn Fn(u32) -> Vec<u32> + Send + Sync>,
    /// Whether whoever takes the last wins, or loses.
    last_wins: bool,
}

/// A position of any such game.
#[derive(Clone)]
struct Quay {
    rules: Arc<Rules>,
    crates: u32,
    side: Seat,
    scores: [f64; 2],
}

impl Game for Quay {
    type Action = u32;
    type View = (u32, Seat);

    fn seats(&self) -> usize {
        2
    }

    fn acting(&self) -> Acting<'_> {
        if self.crates == 0 { Acting::Nobody } else { Acting::One(self.side) }
    }

    fn view(&self, _seat: Seat) -> (u32, Seat) {
        (self.crates, self.side)
    }

    fn advance(&mut self, choices: &Choices<u32>, _chance: &mut Chance) -> Advance {
        let takes = (self.rules.takes)(self.crates);
        let legal = choices.get(self.side).copied().filter(|count| takes.contains(count));
        let (mover, taken) = (self.side, legal.unwrap_or(takes[0]));
        self.crates -= taken;
        self.side = 1 - mover;
        if self.crates == 0 {
            self.scores[if self.rules.last_wins { mover } else { 1 - mover }] = 1.0;
        }
        if legal.is_some() { Advance::Fine } else { Advance::Faults(SeatSet::from_iter([mover])) }
    }

    fn scores(&self) -> &[f64] {
        &self.scores
    }

    fn verdict(&self) -> Option<Verdict> {
        (self.crates == 0).then(|| Verdict::by_score(&self.scores, Ending::Decided("empty".into())))
    }
}

impl Options for Quay {
    fn options(&self, _seat: Seat, into: &mut Vec<u32>) {
        into.extend((self.rules.takes)(self.crates));
    }
}

impl Imagine for Quay {
    fn imagine(&self, _seat: Seat, _chance: &mut Chance) -> Option<Self> {
        Some(self.clone())
    }
}

impl Appraise for Quay {}

impl Keyed for Quay {
    type Key = (u32, Seat);

    fn key(&self) -> (u32, Seat) {
        (self.crates, self.side)
    }
}

impl Noted for Quay {
    fn note(&self) -> String {
        format!("{} {}", self.crates, self.side)
    }

    fn read_note(&self, text: &str) -> Result<Self, String> {
        let read = || {
            let (crates, side) = text.split_once(' ')?;
            let (crates, side) = (crates.parse().ok()?, side.parse().ok()?);
            (crates <= self.rules.crates && side < 2 && format!("{crates} {side}") == text).then_some((crates, side))
        };
        let (crates, side) = read().ok_or("write the crates and the side to move, as in `7 0`")?;
        Ok(Self { crates, side, scores: [0.0; 2], ..self.clone() })
    }
}

/// A network sees how many crates there are, and says how many to take.
impl Features for Quay {
    fn observe(&self, _seat: Seat, into: &mut Vec<f32>) {
        into.clear();
        into.push(normalised(f64::from(self.crates), 0.0, 21.0));
    }

    fn act(&self, _seat: Seat, intent: Intent<'_>) -> u32 {
        let takes = (self.rules.takes)(self.crates);
        let Intent::Option(option) = intent else { return takes[0] };
        takes[option.min(takes.len() - 1)]
    }
}

impl Measured for Quay {
    fn measures(&self, _seat: Seat, _into: &mut Vec<f64>) {}
}

fn entry(rules: Rules) -> Entry<Quay> {
    let sheet = GameSheet {
        name: rules.name.into(),
        help: "crates are taken off a quay".into(),
        seats: 2..=2,
        ticks_per_second: None,
        rules: Vec::new(),
        levels: vec![LevelSheet::new("quay", "all crates are there")],
        level_file: None,
        without_chance: None,
        measures: Vec::new(),
    };
    let rules = Arc::new(rules);
    Entry::new(sheet, move |_laying| {
        let rules = rules.clone();
        Ok(Box::new(move |_chance: &mut Chance| Quay {
            crates: rules.crates,
            rules: rules.clone(),
            side: 0,
            scores: [0.0; 2],
        }))
    })
    .optioned()
    .noted()
    .filed()
    .counted()
    .agent(minimax(&[]))
    .agent(treesearch_reusing(&[]))
    .featured(|_rules| FeatureSheet {
        observation: vec![Feature::new("crates", "", 0.0, 21.0, "crates that are left")],
        actions: ActionSpace::Discrete(["first", "second", "third"].map(String::from).into()),
        tempo: None,
    })
    .agent(policy(vec![networks(), tables()]))
    .agent(drifter(1))
}

/// Up to three crates are taken, and the last one wins, or loses.
fn threes(name: &'static str, last_wins: bool) -> Rules {
    Rules { name, crates: 21, takes: Box::new(|left| (1..=left.min(3)).collect()), last_wins }
}

/// Powers of two are taken: lost are the multiples of three.
fn powers() -> Rules {
    let takes = |left: u32| [1, 2, 4, 8, 16].into_iter().filter(|count| *count <= left).collect();
    Rules { name: "powers", crates: 21, takes: Box::new(takes), last_wins: true }
}

fn registry() -> Registry {
    Registry::default()
        .with(entry(threes("last-wins", true)))
        .with(entry(threes("last-loses", false)))
        .with(entry(powers()))
}

/// Whether whoever moves loses with best play, by the theory of each game.
fn is_lost(game: &str, crates: u32) -> bool {
    match game {
        "last-wins" => crates.is_multiple_of(4),
        "last-loses" => crates % 4 == 1,
        _ => crates.is_multiple_of(3),
    }
}

/// What an agent weighs at a position.
fn weighed(game: &dyn GameEntry, agent: &str, knobs: &Knobs, crates: u32) -> (Option<f64>, Option<u32>) {
    let knobs = knobs.resolve(&game.agent(agent).unwrap().knobs).unwrap();
    let setting = Setting {
        rules: Knobs::default(),
        level: Level::named("quay", Knobs::default()),
        cast: Casting::everywhere(agent, &knobs, 2),
        seating: Seating::rotated(2),
        study_seed: 1,
        pairing: 0,
    };
    let explained = game.explain(&setting, Some(&format!("{crates} 0")), None, 1).unwrap();
    let values = explained.thoughts.iter().flat_map(|thoughts| &thoughts.options).map(|option| option.value);
    (values.reduce(f64::max), explained.best.and_then(|best| best.as_u64()).map(|count| count as u32))
}

#[test]
fn minimax_solves_each_game_by_its_own_rules() {
    let registry = registry();
    for game in ["last-wins", "last-loses", "powers"] {
        let entry = registry.game(game).unwrap();
        for crates in 1..=14 {
            let (value, _) = weighed(entry, "minimax", &Knobs::default().with("depth", 30.0), crates);
            let expected = if is_lost(game, crates) { -1.0 } else { 1.0 };
            assert_eq!(value, Some(expected), "{game}, {crates} crates");
        }
    }
}

#[test]
fn a_tree_search_finds_the_only_move_that_wins() {
    let registry = registry();
    // All others leave a number that wins.
    for (game, crates, best) in [("last-wins", 7, 3), ("last-loses", 7, 2), ("powers", 10, 1), ("powers", 11, 8)] {
        let entry = registry.game(game).unwrap();
        let (_, chosen) = weighed(entry, "treesearch", &Knobs::default().with("iterations", 4000.0), crates);
        assert!(is_lost(game, crates - best), "the test knows the theory");
        let chosen = chosen.expect("it chooses");
        assert!(is_lost(game, crates - chosen), "{game}, {crates} crates: it takes {chosen}");
    }
}

/// A table of values that plays a game by its theory.
fn table(game: &str, takes: &dyn Fn(u32) -> Vec<u32>) -> KnobValue {
    let mut text = String::from("position,option,value\n");
    for crates in 1..=21 {
        for side in 0..2 {
            for (place, taken) in takes(crates).into_iter().enumerate() {
                let wins = match crates - taken {
                    0 => game != "last-loses",
                    left => is_lost(game, left),
                };
                let _ = writeln!(text, "{crates} {side},{},{}", place + 1, u8::from(wins));
            }
        }
    }
    KnobValue::File { file: "table.csv".into(), bytes: Bytes(text.into_bytes().into()) }
}

#[test]
fn a_batch_of_them_is_played_by_a_table_a_search_and_at_random() {
    let registry = registry();
    for rules in [threes("last-wins", true), threes("last-loses", false), powers()] {
        let game = registry.game(rules.name).unwrap();
        let entrant = |name: &str, agent: &str, knobs: Knobs| EntrantDraft {
            name: Some(name.into()),
            agent: agent.into(),
            knobs,
            vary: Vec::new(),
        };
        let mut by_table = Knobs::default();
        by_table.set("file", table(rules.name, &rules.takes));
        let entrants = vec![
            entrant("table", "policy", by_table),
            entrant("search", "minimax", Knobs::default().with("depth", 30.0)),
            entrant("random", "drifter", Knobs::default()),
        ];
        let draft = Draft { game: rules.name.into(), matches: Some(40), entrants, ..Draft::default() };
        let plan = resolve(&draft.into(), &registry).expect("the draft is fine");
        let folder = tempfile::tempdir().expect("a temporary folder");
        let (study, mut manifest) = crate::begin::begun(folder.path(), &plan);
        let halt = Halt::new();
        let (_, plan) = Runner::new(&plan, game, &Threads(2), &halt)
            .play(&study, &mut manifest, &mut |_| {})
            .expect("it is played");
        let found: StudySummary = summarise(&study, &manifest, &plan, game).expect("it is complete").0;
        assert!(found.entrants.iter().all(|entrant| entrant.faults == 0), "{:?}", found.entrants);
        // Whoever moves first has the same theory before them: both that know it win as often.
        let rate = |a: usize| found.pairings[a].win_rate.unwrap().value;
        assert_eq!(rate(0), 0.5, "{}: table against search", rules.name);
        let wins = |pairing: usize| found.pairings[pairing].win_rate.unwrap().low > 0.5;
        assert!(wins(1) && wins(2), "{}: {:?}", rules.name, found.pairings);
    }
}

/// A policy by this file.
fn by_file(name: &str, bytes: Vec<u8>) -> Knobs {
    let mut knobs = Knobs::default();
    knobs.set("file", KnobValue::File { file: name.into(), bytes: Bytes(bytes.into()) });
    knobs
}

#[test]
fn a_policy_plays_by_the_kind_of_model_that_its_file_holds() {
    let registry = registry();
    let entry = registry.game("last-wins").unwrap();
    let network = Dense::drawn(vec![1, 6, 3], Activation::Tanh, &mut Chance::from_seed(5));
    let weights = Weights {
        observation: vec!["crates".into()],
        actions: ["first", "second", "third"].map(String::from).into(),
        gives: Gives::Scores,
        body: Body::Network(Network::Dense(network.clone())),
        earlier: Vec::new(),
    };
    let of_network = by_file("one.safetensors", weights.to_bytes());
    let KnobValue::File { bytes, .. } = table("last-wins", &threes("", true).takes) else { unreachable!("a file") };
    let of_table = by_file("one.csv", bytes.0.to_vec());
    let mut memory = Memory::default();
    let mut apart = 0;
    for crates in 5..=21 {
        let choice = largest(network.forward(&[normalised(f64::from(crates), 0.0, 21.0)], &mut memory));
        let (_, taken) = weighed(entry, "policy", &of_network, crates);
        assert_eq!(taken, Some(choice as u32 + 1), "the network, {crates} crates");
        let (value, taken) = weighed(entry, "policy", &of_table, crates);
        assert_eq!(value, Some(if is_lost("last-wins", crates) { 0.0 } else { 1.0 }));
        let taken = taken.expect("it chooses");
        assert!(is_lost("last-wins", crates) || is_lost("last-wins", crates - taken), "the table, {crates} crates");
        apart += u32::from(taken != choice as u32 + 1);
    }
    assert!(apart > 0, "they are two models");
    let unknown = by_file("one.txt", b"one".to_vec()).resolve(&entry.agent("policy").unwrap().knobs).unwrap();
    let setting = Setting {
        rules: Knobs::default(),
        level: Level::named("quay", Knobs::default()),
        cast: Casting::everywhere("policy", &unknown, 2),
        seating: Seating::rotated(2),
        study_seed: 1,
        pairing: 0,
    };
    let refused = entry.stage(&setting).err().expect("no model has such files").to_string();
    assert!(refused.contains("`one.txt`") && refused.contains(".onnx") && refused.contains(".csv"), "{refused}");
}

/// Takes what comes first.
struct First;

impl Agent<Quay> for First {
    fn begin(&mut self, _seat: Seat, _chance: Chance) {}

    fn choose(&mut self, sight: &Sight<'_, Quay>) -> Result<u32, GaveUp> {
        Ok(sight.act(Intent::Option(0)))
    }
}

#[test]
fn a_brief_is_checked_without_starting_an_agent() {
    let started = Arc::new(AtomicU64::new(0));
    let counted = started.clone();
    let pace = Knob::real("pace", 0.0..=1.0, 0.5).help("counts for nothing");
    let slow = AgentKind::new("slow", "takes long to start").knob(pace).factory(move |_knobs| {
        let counted = counted.clone();
        Box::new(move |_person| {
            counted.fetch_add(1, Ordering::Relaxed);
            Box::new(First)
        })
    });
    let registry = Registry::default().with(entry(threes("last-wins", true)).agent(slow));
    let entrant = |name: &str, pace: f64| EntrantDraft {
        name: Some(name.into()),
        agent: "slow".into(),
        knobs: Knobs::default().with("pace", pace),
        vary: Vec::new(),
    };
    let entrants = vec![entrant("one", 0.1), entrant("two", 0.9)];
    let draft = Draft { game: "last-wins".into(), matches: Some(4), entrants, ..Draft::default() };
    let plan = resolve(&draft.into(), &registry).expect("the draft is fine");
    assert_eq!(started.load(Ordering::Relaxed), 0);
    let (game, halt) = (registry.game("last-wins").unwrap(), Halt::never());
    PlanJob::new(&plan, game, &halt).worker()(&Task::Blocks(0..1));
    assert!(started.load(Ordering::Relaxed) > 0, "a match starts them");
}

#[test]
fn they_keep_what_every_game_promises() -> Result<(), inkpot_core::Broken> {
    for rules in [threes("last-wins", true), powers()] {
        let entry = entry(rules);
        Conformance::of(&entry).options().imagined().appraised(Vec::new()).keyed().noted().agents().check()?;
    }
    Ok(())
}
