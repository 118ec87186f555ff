//! An agent kind of a game: its sheet and its factory.

use std::sync::Arc;

use crate::{Agent, AgentSheet, Game, GaveUp, Knob, KnobError, Knobs, Laying, Person, Preset};

/// Builds the agent for one match, given the person it plays in the block. One that cannot says why: its seat then
/// forfeits the match.
pub type Factory<G> = Box<dyn Fn(Person) -> Result<Box<dyn Agent<G>>, GaveUp> + Send + Sync>;

/// The same where nothing can fail.
pub type Maker<G> = Box<dyn Fn(Person) -> Box<dyn Agent<G>> + Send + Sync>;

/// Makes a factory from the values of all knobs, for matches that are laid so; errs with what does not fit.
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

    /// With another default of a numeric knob that it has: what suits one game does not suit all.
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

    /// With what makes its agents: given all knob values once, a factory that makes one agent a match. The factory is
    /// given the block's [`Person`], which a stand-in draws its traits from.
    #[must_use]
    pub fn factory(self, prepare: impl Fn(&Knobs) -> Maker<G> + Send + Sync + 'static) -> Self {
        self.factory_for(move |knobs, _laying| Ok(prepare(knobs)))
    }

    /// The same where it depends on how matches are laid whether and how its agents can play; errs with what does not
    /// fit.
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

    /// With agents that last for a block: each plays its matches one after the other, and may keep what it learned in
    /// the earlier ones. [`Agent::begin`] and [`Agent::end`] frame each match; [`Agent::renew`] is not asked. A match
    /// of the block that is played on its own is preceded by those before it, so that the agent knows what it would.
    #[must_use]
    pub fn remembering(mut self) -> Self {
        self.sheet.remembers = true;
        self
    }

    /// With agents that no two runs play alike, whatever their knobs say.
    #[must_use]
    pub fn unrepeatable(mut self) -> Self {
        self.sheet.repeats = false;
        self
    }

    /// With agents that draw no chance where their knobs have these values: two of them without chance, in a game
    /// without any, play one match over and over, and what it comes to is known without error.
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
