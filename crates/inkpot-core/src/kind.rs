//! An agent kind of a game: its sheet and its factory.

use std::sync::Arc;

use crate::{Agent, AgentSheet, Game, GaveUp, Knob, KnobError, Knobs, Laying, Person, Preset};

/// Builds the agent for one match, given the person it plays in the block. One that cannot says why: its seat then
/// forfeits the match.
pub type Factory<G> = Box<dyn Fn(Person) -> Result<Box<dyn Agent<G>>, GaveUp> + Send + Sync>;

/// The same where nothing can fail.
pub type Maker<G> = Box<dyn Fn(Person) -> Box<dyn Agent<G>> + Send + Sync>;

/// Builds a factory from the values of all knobs, for matches laid in this way; errs with the problem.
type Prepare<G> = Arc<dyn Fn(&Knobs, &Laying) -> Result<Factory<G>, String> + Send + Sync>;

/// An agent kind of a game: its sheet and its factory.
pub struct AgentKind<G: Game> {
    sheet: AgentSheet,
    prepare: Prepare<G>,
}

impl<G: Game + 'static> AgentKind<G> {
    /// A kind with a name and one line about it.
    pub fn new(name: &str, help: &str) -> Self {
        let sheet = AgentSheet {
            name: name.into(),
            help: help.into(),
            knobs: Vec::new(),
            presets: Vec::new(),
            remembers: false,
            repeats: true,
            without_chance: None,
        };
        let nameless = name.to_string();
        Self {
            sheet,
            prepare: Arc::new(move |_, _| panic!("the agent kind `{nameless}` was registered without a factory")),
        }
    }

    /// With one more knob; a master stands before those that follow it.
    #[must_use]
    pub fn knob(mut self, knob: Knob) -> Self {
        self.sheet.knobs.push(knob);
        self
    }

    /// Changes the default of a numeric knob for one game.
    ///
    /// Panics when there is no such knob or the value is not allowed, which any test that makes the game meets.
    #[must_use]
    pub fn with_default(mut self, name: &str, value: f64) -> Self {
        let knob = self.sheet.knobs.iter_mut().find(|knob| knob.name == name);
        knob.expect("only a knob of the kind has a default").set_default(value);
        self
    }

    /// With one more preset.
    #[must_use]
    pub fn preset(mut self, name: &str, help: &str, knobs: Knobs) -> Self {
        self.sheet.presets.push(Preset { name: name.into(), help: help.into(), knobs });
        self
    }

    /// Sets the builder of its agents: given all knob values once, it returns a factory that builds one agent a match.
    /// The factory gets the block's [`Person`], from which a stand-in draws its traits.
    #[must_use]
    pub fn factory(self, prepare: impl Fn(&Knobs) -> Maker<G> + Send + Sync + 'static) -> Self {
        self.factory_for(move |knobs, _laying| Ok(prepare(knobs)))
    }

    /// Sets a builder that also gets the laying of matches; errs if the agent cannot play there.
    #[must_use]
    pub fn factory_for(
        self,
        prepare: impl Fn(&Knobs, &Laying) -> Result<Maker<G>, String> + Send + Sync + 'static,
    ) -> Self {
        self.failing_factory(move |knobs, laying| {
            let make = prepare(knobs, laying)?;
            Ok(Box::new(move |person| Ok(make(person))))
        })
    }

    /// The same where an agent may turn out not to start for a match: a process, a connection, a file that is gone.
    #[must_use]
    pub fn failing_factory(
        mut self,
        prepare: impl Fn(&Knobs, &Laying) -> Result<Factory<G>, String> + Send + Sync + 'static,
    ) -> Self {
        self.prepare = Arc::new(prepare);
        self
    }

    /// Makes agents last for a block: each plays its matches in order and may keep its memory. [`Agent::begin`] and
    /// [`Agent::end`] frame each match; [`Agent::renew`] is not called. To play one match alone, those before it are
    /// played first.
    #[must_use]
    pub fn remembering(mut self) -> Self {
        self.sheet.remembers = true;
        self
    }

    /// Marks agents that are not reproducible at any knob values.
    #[must_use]
    pub fn unrepeatable(mut self) -> Self {
        self.sheet.repeats = false;
        self
    }

    /// States the knob values with which its agents draw no chance. Two such agents in a game without chance always
    /// play the same match, and its figures are known without error.
    #[must_use]
    pub fn without_chance(mut self, values: Knobs) -> Self {
        self.sheet.without_chance = Some(values);
        self
    }

    /// With every factory wrapped in another, which is given the knob values too.
    #[must_use]
    pub fn wrapped(self, wrap: impl Fn(Factory<G>, &Knobs) -> Factory<G> + Send + Sync + 'static) -> Self {
        let inner = self.prepare.clone();
        self.failing_factory(move |knobs, laying| Ok(wrap(inner(knobs, laying)?, knobs)))
    }

    /// The sheet of the agent kind.
    pub fn sheet(&self) -> &AgentSheet {
        &self.sheet
    }

    /// A factory of its agents with these values of its knobs, the others at their defaults, for matches that are laid
    /// so. Errs with all values that are not allowed, or with why it cannot play there.
    pub fn made(&self, given: &Knobs, laying: &Laying) -> Result<Factory<G>, Vec<KnobError>> {
        let knobs = given.resolve(&self.sheet.knobs)?;
        self.prepared(&knobs, laying).map_err(|reason| vec![KnobError::Unfit { kind: self.sheet.name.clone(), reason }])
    }

    /// A factory of its agents with these values of all its knobs.
    pub(crate) fn prepared(&self, knobs: &Knobs, laying: &Laying) -> Result<Factory<G>, String> {
        (self.prepare)(knobs, laying)
    }
}

impl<G: Game> Clone for AgentKind<G> {
    fn clone(&self) -> Self {
        Self { sheet: self.sheet.clone(), prepare: self.prepare.clone() }
    }
}
