//! The kinds of study. Draft, plan and summary hold the common part; each kind is one variant here and one folder
//! below, with its draft, checks, plays, readings, findings and notes.
//!
//! A kind is played as it was drafted, or searched for: then what was found makes a plan, which is played as its proof.
//! A new kind is a folder and a line in each of the enums.

pub(crate) mod batch;
pub(crate) mod compare;
pub(crate) mod evolve;
pub(crate) mod fit;
pub(crate) mod found;
pub(crate) mod sweep;
pub(crate) mod tournament;
pub(crate) mod train;
pub(crate) mod tune;

use inkpot_core::{GameEntry, Registry};
use inkpot_ledger::{LedgerError, Manifest, Study};
use serde::{Deserialize, Serialize};

use self::batch::{Batch, BatchFinding};
use self::compare::{Compare, CompareDraft, CompareFinding};
use self::evolve::Evolve;
use self::fit::{Fit, FitFinding, FitProof};
use self::found::{Aim, Paths, SearchFinding, SearchProof};
use self::sweep::{Sweep, SweepDraft, SweepFinding};
use self::tournament::{Tournament, TournamentDraft, TournamentFinding};
use self::train::Train;
use self::tune::{Proof, Tune, TuneFinding};
use crate::checker::Checker;
use crate::kind::Kind;
use crate::planning::MATCHES;
use crate::summing::{SummedUp, summed_up};
use crate::{CheckpointError, Draft, Entrant, Made, Plan, Problem, Seeks};

/// Kind of a study.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum StudyKind {
    /// Every entrant meets every other.
    #[default]
    Batch,
    /// One pairing at every value of one or two knobs.
    Sweep,
    /// A field that is ranked.
    Tournament,
    /// Decides which of two is better, against each other or against the same opponents.
    Compare,
    /// Knob values that meet targets, rung by rung, proved on fresh blocks.
    Tune,
    /// Knob values with which a stand-in plays like the people of a log.
    Fit,
    /// Agents that are found by evolution.
    Evolve,
    /// Agents that learn by reward.
    Train,
}

impl StudyKind {
    /// All kinds.
    pub const ALL: [Self; 8] =
        [Self::Batch, Self::Sweep, Self::Tournament, Self::Compare, Self::Tune, Self::Fit, Self::Evolve, Self::Train];

    /// Its name in briefs and JSON.
    pub fn name(self) -> &'static str {
        match self {
            Self::Batch => "batch",
            Self::Sweep => "sweep",
            Self::Tournament => "tournament",
            Self::Compare => "compare",
            Self::Tune => "tune",
            Self::Fit => "fit",
            Self::Evolve => "evolve",
            Self::Train => "train",
        }
    }
}

/// The kind of study that a variant is named after.
macro_rules! kind_of {
    ($($kind:ident),+) => {
        /// The kind of study.
        pub fn kind(&self) -> StudyKind {
            match self {
                $(Self::$kind { .. } => StudyKind::$kind,)+
            }
        }
    };
}

/// The draft of a kind of study, as far as kinds differ.
#[derive(Clone, Debug, Default, PartialEq)]
#[expect(missing_docs, reason = "the kinds of study that are played as they are drafted")]
pub enum KindDraft {
    #[default]
    Batch,
    Sweep(SweepDraft),
    Tournament(TournamentDraft),
    Compare(CompareDraft),
}

impl KindDraft {
    kind_of!(Batch, Sweep, Tournament, Compare);

    /// Matches a cell where the draft says nothing.
    pub(crate) fn matches(&self) -> u64 {
        match self {
            Self::Compare(compare) => compare.matches(),
            Self::Batch | Self::Sweep(_) | Self::Tournament(_) => MATCHES,
        }
    }

    /// Checks a draft and returns the design.
    pub(crate) fn checked(&self, checker: &mut Checker, draft: &Draft, entrants: &[Entrant]) -> Design {
        match self {
            Self::Batch => Design::Batch(Batch::checked(checker, draft, entrants)),
            Self::Sweep(sweep) => Design::Sweep(sweep.checked(checker, draft, entrants)),
            Self::Tournament(tournament) => Design::Tournament(tournament.checked(checker, draft, entrants)),
            Self::Compare(compare) => Design::Compare(compare.checked(checker, draft, entrants)),
        }
    }
}

/// The plan of a search, resolved and checked.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "lowercase")]
#[expect(missing_docs, reason = "the kinds of study that search")]
pub enum SearchPlan {
    Tune(Box<Tune>),
    Fit(Box<Fit>),
    Evolve(Box<Evolve>),
    Train(Box<Train>),
}

impl SearchPlan {
    kind_of!(Tune, Fit, Evolve, Train);

    /// The aim, of kinds that find agents.
    pub fn aim(&self) -> Option<&Aim> {
        match self {
            Self::Evolve(evolve) => Some(&evolve.aim),
            Self::Train(train) => Some(&train.aim),
            Self::Tune(_) | Self::Fit(_) => None,
        }
    }

    /// Returns the paths of the repetition with this number: its champion, and the last generation of an evolution or
    /// earlier states of a training. None if the game draws no scene of seats. Errs if the checkpoint belongs to
    /// another search.
    pub fn paths(&self, checkpoint: &str, number: u64, game: &dyn GameEntry) -> Result<Option<Paths>, CheckpointError> {
        match self {
            Self::Evolve(evolution) => evolve::paths(evolution, checkpoint, number, game),
            Self::Train(training) => train::paths(training, checkpoint, number, game),
            Self::Tune(_) | Self::Fit(_) => Ok(None),
        }
    }

    /// Returns the tuning, if this is one.
    pub fn tune(self) -> Option<Box<Tune>> {
        match self {
            Self::Tune(tune) => Some(tune),
            Self::Fit(_) | Self::Evolve(_) | Self::Train(_) => None,
        }
    }

    /// The search of its kind.
    pub fn as_search(&self) -> &dyn Seeks {
        match self {
            Self::Tune(tune) => tune.as_ref(),
            Self::Fit(fit) => fit.as_ref(),
            Self::Evolve(evolve) => evolve.as_ref(),
            Self::Train(train) => train.as_ref(),
        }
    }

    /// Returns the plan of the proof for the finished search of this checkpoint, in a study of this name made from this
    /// brief. Errs if there is nothing to prove.
    pub(crate) fn prove(
        &self,
        checkpoint: &str,
        made: &Made,
        registry: &Registry,
    ) -> Result<(Plan, Design), Vec<Problem>> {
        fn of<P>((plan, proof): (Plan, P), design: impl FnOnce(Box<P>) -> Design) -> (Plan, Design) {
            (plan, design(Box::new(proof)))
        }
        Ok(match self {
            Self::Tune(tune) => of(tune.prove(checkpoint, made, registry)?, Design::Tune),
            Self::Fit(fit) => of(fit.prove(checkpoint, registry)?, Design::Fit),
            Self::Evolve(evolve) => of(evolve.prove(checkpoint, registry)?, Design::Evolve),
            Self::Train(train) => of(train.prove(checkpoint, registry)?, Design::Train),
        })
    }
}

/// The design of a study, as far as kinds differ.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "lowercase")]
#[expect(missing_docs, reason = "the kinds of study")]
pub enum Design {
    Batch(Batch),
    Sweep(Sweep),
    Tournament(Tournament),
    Compare(Compare),
    Tune(Box<Proof>),
    Fit(Box<FitProof>),
    Evolve(Box<SearchProof>),
    Train(Box<SearchProof>),
}

impl Design {
    kind_of!(Batch, Sweep, Tournament, Compare, Tune, Fit, Evolve, Train);

    /// Returns the methods of this kind.
    pub(crate) fn as_kind(&self) -> &dyn Kind {
        match self {
            Self::Batch(batch) => batch,
            Self::Sweep(sweep) => sweep,
            Self::Tournament(tournament) => tournament,
            Self::Compare(compare) => compare,
            Self::Tune(tune) => tune.as_ref(),
            Self::Fit(fit) => fit.as_ref(),
            Self::Evolve(found) | Self::Train(found) => found.as_ref(),
        }
    }

    /// Sums up the stored rows of a complete study.
    pub(crate) fn summed_up(
        &self,
        study: &Study,
        manifest: &Manifest,
        plan: &Plan,
        game: &dyn GameEntry,
    ) -> Result<SummedUp<Finding>, LedgerError> {
        macro_rules! as_kind {
            ($kind:expr, $finding:path) => {{
                let (summary, found, times) = summed_up($kind, study, manifest, plan, game)?;
                Ok((summary, $finding(found), times))
            }};
        }
        match self {
            Self::Batch(batch) => as_kind!(batch, Finding::Batch),
            Self::Sweep(sweep) => as_kind!(sweep, Finding::Sweep),
            Self::Tournament(tournament) => as_kind!(tournament, Finding::Tournament),
            Self::Compare(compare) => as_kind!(compare, Finding::Compare),
            Self::Tune(tune) => as_kind!(tune.as_ref(), Finding::Tune),
            Self::Fit(fit) => as_kind!(fit.as_ref(), Finding::Fit),
            Self::Evolve(evolve) => as_kind!(evolve.as_ref(), Finding::Evolve),
            Self::Train(train) => as_kind!(train.as_ref(), Finding::Train),
        }
    }
}

/// The finding of a study, as far as kinds differ.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "lowercase")]
#[expect(missing_docs, reason = "the kinds of study")]
pub enum Finding {
    Batch(BatchFinding),
    Sweep(SweepFinding),
    Tournament(TournamentFinding),
    Compare(CompareFinding),
    Tune(TuneFinding),
    Fit(FitFinding),
    Evolve(SearchFinding),
    Train(SearchFinding),
}

impl Finding {
    kind_of!(Batch, Sweep, Tournament, Compare, Tune, Fit, Evolve, Train);
}
