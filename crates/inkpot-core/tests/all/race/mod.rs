//! A race for any number of seats, small enough to know how it ends, with ways to go wrong.

use inkpot_core::{
    Acting, Advance, Agent, AgentKind, Casting, Chance, Choices, Ending, Entry, Game, GameSheet, GaveUp, Keeper, Knob,
    KnobValue, Knobs, Level, LevelSheet, Measure, MeasureOf, Measured, Options, Person, Seat, SeatSet, Seating,
    Setting, Sight, Verdict, Wanted,
};

/// Every tick all seats that are not there yet take up to three steps; whoever is first at the goal wins, and who gets
/// there together shares the place. The wind of the world carries everybody a step further now and then.
#[derive(Clone, Debug)]
pub(crate) struct Race {
    pub(crate) at: Vec<f64>,
    running: Vec<Seat>,
    goal: f64,
    windy: bool,
    gusts: u64,
}

/// A choice after which the game's own state is not sound any more.
pub(crate) const BREAK: i64 = 13;
/// A choice at which the game's code panics.
pub(crate) const PANIC: i64 = 14;

impl Race {
    pub(crate) fn new(seats: usize, goal: f64, windy: bool) -> Self {
        Self { at: vec![0.0; seats], running: (0..seats).collect(), goal, windy, gusts: 0 }
    }
}

impl Game for Race {
    type Action = i64;
    type View = Vec<f64>;

    fn seats(&self) -> usize {
        self.at.len()
    }

    fn acting(&self) -> Acting<'_> {
        if self.running.len() < self.at.len() { Acting::Nobody } else { Acting::These(&self.running) }
    }

    fn view(&self, seat: Seat) -> Vec<f64> {
        let others = self.at.iter().enumerate().filter(|(other, _)| *other != seat);
        std::iter::once(self.at[seat]).chain(others.map(|(_, at)| *at)).collect()
    }

    fn advance(&mut self, choices: &Choices<i64>, chance: &mut Chance) -> Advance {
        let mut faults = SeatSet::default();
        let gust = if self.windy && chance.happens(0.5) { 1.0 } else { 0.0 };
        self.gusts += gust as u64;
        for seat in self.running.clone() {
            let steps = match choices.get(seat) {
                Some(&BREAK) => return Advance::Fell("a wheel came off".into()),
                Some(&PANIC) => panic!("the code of the race"),
                Some(steps @ 0..=3) => *steps as f64,
                _ => {
                    faults.insert(seat);
                    0.0
                }
            };
            self.at[seat] += steps + gust;
        }
        let (at, goal) = (&self.at, self.goal);
        self.running.retain(|seat| at[*seat] < goal);
        faults.into_advance()
    }

    fn scores(&self) -> &[f64] {
        &self.at
    }

    fn verdict(&self) -> Option<Verdict> {
        (self.running.len() < self.at.len()).then(|| Verdict::by_score(&self.at, Ending::Decided("goal".into())))
    }
}

impl Options for Race {
    fn options(&self, _seat: Seat, into: &mut Vec<i64>) {
        into.extend(0..=3);
    }
}

impl Measured for Race {
    fn measures(&self, seat: Seat, into: &mut Vec<f64>) {
        into.extend([self.at[seat] / self.goal, self.gusts as f64]);
    }
}

/// Takes the same steps every tick.
struct Steady(i64);

impl Agent<Race> for Steady {
    fn choose(&mut self, _sight: &Sight<'_, Race>) -> Result<i64, GaveUp> {
        Ok(self.0)
    }
}

/// Takes one to three steps by its own chance.
struct Roller(Chance);

impl Agent<Race> for Roller {
    fn begin(&mut self, _seat: Seat, chance: Chance) {
        self.0 = chance;
    }

    fn choose(&mut self, _sight: &Sight<'_, Race>) -> Result<i64, GaveUp> {
        Ok(1 + self.0.below(3) as i64)
    }
}

/// Steps as often as it has played in its block before, at most three; nobody else it was drawn to be.
struct Learner(Person);

impl Agent<Race> for Learner {
    fn choose(&mut self, _sight: &Sight<'_, Race>) -> Result<i64, GaveUp> {
        Ok(i64::from(self.0.matches_before.min(3)))
    }
}

/// Steps as often as matches ended in which it sat, at most three.
#[derive(Default)]
struct Practised {
    matches: i64,
}

impl Agent<Race> for Practised {
    fn choose(&mut self, _sight: &Sight<'_, Race>) -> Result<i64, GaveUp> {
        Ok(self.matches.min(3))
    }

    fn end(&mut self, _verdict: &Verdict) {
        self.matches += 1;
    }
}

/// Walks, and goes wrong at its third decision.
struct Walker {
    decisions: u32,
    then: Then,
}

/// What goes wrong.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Then {
    Panics,
    GivesUp,
    Cheats,
    BreaksTheGame,
    PanicsTheGame,
}

impl Agent<Race> for Walker {
    fn choose(&mut self, _sight: &Sight<'_, Race>) -> Result<i64, GaveUp> {
        self.decisions += 1;
        match (self.decisions, self.then) {
            (1 | 2, _) => Ok(1),
            (_, Then::Panics) => panic!("no way forward"),
            (_, Then::GivesUp) => Err(GaveUp::because("tired")),
            (_, Then::Cheats) => Ok(99),
            (_, Then::BreaksTheGame) => Ok(BREAK),
            (_, Then::PanicsTheGame) => Ok(PANIC),
        }
    }
}

fn walker(name: &str, then: Then) -> AgentKind<Race> {
    AgentKind::new(name, "walks").factory(move |_| Box::new(move |_| Box::new(Walker { decisions: 0, then })))
}

/// The race for this many seats with all its agents.
pub(crate) fn entry(seats: usize) -> Entry<Race> {
    let measure = |name: &str, of: MeasureOf| Measure {
        name: name.into(),
        label: name.into(),
        unit: String::new(),
        of,
        wanted: Wanted::Neither,
        help: String::new(),
        kept_by: Keeper::Game,
        success: false,
    };
    let sheet = GameSheet {
        name: "race".into(),
        help: "a race".into(),
        seats: seats..=seats,
        ticks_per_second: None,
        rules: vec![Knob::real("goal", 1.0..=1e9, 12.0), Knob::choice("wind", &["calm", "windy"])],
        levels: vec![LevelSheet::new("track", "a track")],
        level_file: None,
        without_chance: None,
        measures: vec![measure("done", MeasureOf::Seat), measure("gusts", MeasureOf::Match)],
    };
    let steady =
        AgentKind::new("steady", "takes the same steps").knob(Knob::whole("steps", 0..=200, 1)).factory(|knobs| {
            let steps = knobs.number("steps") as i64;
            Box::new(move |_| Box::new(Steady(steps)))
        });
    let roller = AgentKind::new("roller", "rolls").factory(|_| Box::new(|_| Box::new(Roller(Chance::from_seed(0)))));
    let learner = AgentKind::new("learner", "learns").factory(|_| Box::new(|person| Box::new(Learner(person))));
    let practised = AgentKind::new("practised", "keeps count of its matches")
        .factory(|_| Box::new(|_| Box::new(Practised::default())))
        .remembering();
    let absent =
        AgentKind::new("absent", "does not turn up for the second match of a block").failing_factory(|_, _| {
            Ok(Box::new(|person| match person.matches_before {
                1 => Err(GaveUp::because("nobody is at home")),
                _ => Ok(Box::new(Steady(1))),
            }))
        });
    Entry::new(sheet, move |laying| {
        let rules = laying.rules;
        let (goal, windy) = (rules.number("goal"), rules.word("wind") == "windy");
        Ok(Box::new(move |_: &mut Chance| Race::new(seats, goal, windy)))
    })
    .optioned()
    .agent(steady)
    .agent(roller)
    .agent(learner)
    .agent(practised)
    .agent(absent)
    .agent(walker("panicker", Then::Panics))
    .agent(walker("quitter", Then::GivesUp))
    .agent(walker("cheat", Then::Cheats))
    .agent(walker("breaker", Then::BreaksTheGame))
    .agent(walker("bomb", Then::PanicsTheGame))
}

/// Who sits down, each an entrant of its own, with these rules set.
pub(crate) fn setting(agents: &[&str], rules: &Knobs, study_seed: u64) -> Setting {
    let entry = entry(agents.len());
    let casting = |(place, text): (usize, &&str)| {
        let (kind, steps) = text.split_once(':').map_or((*text, None), |(kind, steps)| (kind, Some(steps)));
        let sheet = inkpot_core::GameEntry::agents(&entry).iter().find(|sheet| sheet.name == kind).expect("an agent");
        let knobs: Knobs = steps
            .map(|steps| ("steps".to_string(), KnobValue::Number(steps.parse().expect("a number"))))
            .into_iter()
            .collect();
        Casting::new(place as u16, kind, knobs.resolve(&sheet.knobs).expect("allowed"))
    };
    Setting {
        rules: rules.resolve(&inkpot_core::GameEntry::sheet(&entry).rules).expect("allowed rules"),
        level: Level::named("track", Knobs::default()),
        cast: agents.iter().enumerate().map(casting).collect(),
        seating: Seating::rotated(agents.len()),
        study_seed,
        pairing: 0,
    }
}

/// Rules with wind.
pub(crate) fn windy() -> Knobs {
    [("wind".to_string(), KnobValue::Word("windy".into()))].into_iter().collect()
}
