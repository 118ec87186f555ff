//! The verbs, one file each.

mod agents;
mod batch;
mod check;
mod check_game;
mod compare;
mod compare_stored;
mod completions;
mod demo;
mod explain;
mod exploit;
mod found;
mod games;
mod ledger;
mod matches;
pub(crate) mod new;
mod play;
mod plot;
mod pool;
pub(crate) mod replay;
mod report;
mod resume;
mod run;
mod sweep;
mod tournament;
mod tune;
mod watch;

use std::collections::BTreeMap;
use std::path::Path;

use inkpot_core::{HeldMatch, Knobs, Record, Row, Rows, Spot};
use inkpot_lab::{
    Draft, EntrantDraft, KindDraft, Note, Place, StudyDraft, StudyKind, StudyPlan, StudySummary, resolve,
};
use inkpot_ledger::Study;

use crate::args::{SettingArgs, StudyArgs, Verb};
use crate::desk::Desk;
use crate::failure::Failure;
use crate::show::format::ending;
use crate::source::Source;
use crate::{briefs, game_file, hint, level, spec, stored, study};

/// Runs a verb.
pub(crate) fn run(verb: &Verb, desk: &Desk) -> Result<(), Failure> {
    match verb {
        Verb::Demo(args) => demo::run(args, desk),
        Verb::New(args) => new::run(args, desk),
        Verb::Games(args) => games::run(args, desk),
        Verb::Agents(args) => agents::run(args, desk),
        Verb::Match(args) => matches::run(args, desk),
        Verb::Replay(args) => replay::run(args, desk),
        Verb::Watch(args) => watch::run(args, desk),
        Verb::Play(args) => play::run(args, desk),
        Verb::Explain(args) => explain::run(args, desk),
        Verb::Batch(args) => batch::run(args, desk),
        Verb::Sweep(args) => sweep::run(args, desk),
        Verb::Tournament(args) => tournament::run(args, desk),
        Verb::Compare(args) => compare::run(args, desk),
        Verb::Tune(args) => tune::run(args, desk),
        Verb::Evolve(args) => found::run(StudyKind::Evolve, args, desk),
        Verb::Train(args) => found::run(StudyKind::Train, args, desk),
        Verb::Exploit(args) => exploit::run(args, desk),
        Verb::Pool(verb) => pool::run(verb, desk),
        Verb::Check(args) => check::run(args, desk),
        Verb::Run(args) => run::run(args, desk),
        Verb::Resume(args) => resume::run(args, desk),
        Verb::Plot(args) => plot::run(args, desk),
        Verb::Report(args) => report::run(args, desk),
        Verb::Ledger(verb) => ledger::run(verb, desk),
        Verb::Completions(args) => {
            completions::run(args, desk);
            Ok(())
        }
    }
}

/// The typed parts of a study, on their way to a plan.
struct Typed {
    draft: StudyDraft,
    arguments: BTreeMap<Place, String>,
}

impl Typed {
    fn new(
        kind: KindDraft,
        game: &str,
        entrants: &[String],
        setting: &SettingArgs,
        desk: &Desk,
    ) -> Result<Self, Failure> {
        let mut arguments = BTreeMap::from([(Place::from("game"), game.to_string())]);
        let mut drafts: Vec<EntrantDraft> = Vec::new();
        for text in entrants {
            for draft in spec::entrants(text, desk)? {
                arguments.insert(Place::item("entrant", drafts.len()), text.clone());
                drafts.push(draft);
            }
        }
        let rules = match &setting.rules {
            Some(text) => {
                arguments.insert("rules".into(), format!("--rules {text}"));
                spec::assignments(text, text)?
            }
            None => Knobs::default(),
        };
        if let Some(text) = &setting.level {
            arguments.insert("level".into(), format!("--level {text}"));
        }
        let base = Path::new("");
        let game = game_file::source(game, base, &desk.registry)?;
        let level = setting.level.as_deref().map(|text| level::typed(text, &game, base, desk)).transpose()?;
        let shared = Draft { game, level, seed: setting.seed, rules, entrants: drafts, ..Draft::default() };
        Ok(Self { draft: StudyDraft { shared, asked: kind }, arguments })
    }

    /// Remembers the typed text of a key, if any.
    fn argument(&mut self, key: impl Into<Place>, text: Option<String>) {
        if let Some(text) = text {
            self.arguments.insert(key.into(), text);
        }
    }

    fn resolve(self, desk: &Desk) -> Result<StudyPlan, Failure> {
        resolve(&self.draft, &desk.registry)
            .map_err(|problems| Source::Arguments(self.arguments).report(&problems, desk.color_err))
    }

    /// Makes the study, or prints its brief.
    fn study(self, args: &StudyArgs, desk: &Desk) -> Result<(), Failure> {
        match self.made(args, desk)? {
            Some((made, summary)) => study::finish(&made, &summary, Ok(()), desk),
            None => Ok(()),
        }
    }

    /// Makes the study and returns its summary; prints its brief instead if requested.
    fn made(mut self, args: &StudyArgs, desk: &Desk) -> Result<Option<(Study, StudySummary)>, Failure> {
        self.draft.matches = args.matches;
        self.draft.seats = args.seats;
        self.draft.series = args.series;
        self.draft.confidence = args.confidence;
        self.draft.frame_ms = args.frame_ms;
        self.draft.record = args.record;
        self.argument("matches", args.matches.map(|matches| format!("--matches {matches}")));
        self.argument("seats", args.seats.map(|seats| format!("--seats {seats}")));
        self.argument("series", args.series.map(|series| format!("--series {series}")));
        self.argument("frame_ms", args.frame_ms.map(|frame| format!("--frame-ms {frame}")));
        let plan = self.resolve(desk)?;
        let text = briefs::write(&plan, desk.game(&plan.ground.game)?);
        if args.print_brief {
            desk.print(text);
            return Ok(None);
        }
        study::make(&plan, &text, args.name.as_deref(), desk).map(Some)
    }
}

/// One match: named on the command line, or stored, with the choices that its rows keep.
struct OneMatch {
    plan: StudyPlan,
    spot: Spot,
    record: Record,
    /// The stored result; none for a fresh match.
    stored: Option<StoredResult>,
}

/// The result of a stored match.
struct StoredResult {
    /// `STUDY/MATCH`.
    which: String,
    /// Its rows, one a seat.
    rows: Vec<Row>,
}

impl OneMatch {
    /// The match at its start.
    fn open(&self, desk: &Desk) -> Result<Box<dyn HeldMatch>, Failure> {
        let setting = self.plan.setting(&self.plan.cells[self.spot.cell as usize]);
        let stage = desk.game(&self.plan.ground.game)?.stage(&setting);
        let stage = stage.map_err(|error| Failure::Failed(error.to_string()))?;
        Ok(stage.open_recorded(self.spot, &self.record))
    }

    /// Reports a match whose result differs from its rows, as happens by the clock.
    fn compare(&self, played: &Rows, desk: &Desk) {
        let Some(stored) = &self.stored else { return };
        let result = |row: &Row| (row.outcome, row.score.to_bits(), row.ticks, row.ending.clone());
        let is_same = stored.rows.iter().map(result).eq(played.rows.iter().map(result));
        if is_same || stored.rows.is_empty() {
            return;
        }
        let names: Vec<&str> =
            stored.rows.iter().map(|row| self.plan.entrants[usize::from(row.entrant)].name.as_str()).collect();
        let then = ending(&stored.rows, &names);
        let study = stored.which.rsplit_once('/').map_or("", |(study, _)| study);
        let verify = hint::on_ledger(["ledger", "verify", study]);
        let text = format!(
            "{} had another result when it was stored: {}; {verify} says whether the study is sound",
            stored.which,
            then.trim_end_matches('.')
        );
        desk.say(format!("note: {}", Note::Differs.says(text)));
    }
}

/// Finds `STUDY/MATCH` in the ledger.
fn stored_match(which: &str, desk: &Desk) -> Result<OneMatch, Failure> {
    let wrong = |what: String| {
        let list = hint::on_ledger(["ledger", "show", "STUDY", "--by", "MEASURE"]);
        Failure::wrong(what, format!("write STUDY/MATCH, as in `batch-piste-001/17`; {list} lists some"))
    };
    let (name, number) = which.rsplit_once('/').ok_or_else(|| wrong(format!("`{which}` does not name a match")))?;
    let index: u64 = number.parse().map_err(|_| wrong(format!("`{number}` is not a match number")))?;
    let study = desk.ledger.open(name)?;
    let (manifest, plan) = stored::open(&study, desk)?;
    // A comparison may have stopped early, and the later rounds of a tournament may not be drawn yet.
    let drawn = plan.cells.len() as u64 * plan.blocks;
    let matches = manifest.blocks.min(drawn) * plan.matches_a_block();
    if index >= matches {
        return Err(wrong(format!("`{name}` has matches 0 to {}, not {index}", matches.saturating_sub(1))));
    }
    let spot = plan.spot(index);
    let rows = stored::rows_of(&study, &manifest, &plan, index, desk)?;
    let record = Record::of(&rows);
    if !plan.repeats(&plan.cells[spot.cell as usize]) && !record.is_any() {
        let text =
            "an agent of this match thinks by the clock and may play differently now; `--record` stores its choices";
        desk.say(format!("note: {}", Note::Clock.says(text)));
    }
    Ok(OneMatch { plan, spot, record, stored: Some(StoredResult { which: which.into(), rows }) })
}

/// Errs if a brief is of another kind than requested; `what` names the problem.
fn of_kind(asked: &briefs::ResolvedBrief, kind: StudyKind, what: &str, path: &Path) -> Result<(), Failure> {
    if asked.kind() == kind {
        return Ok(());
    }
    let (name, brief) = (kind.name(), asked.kind().name());
    let shown = path.display().to_string();
    let verb = if matches!(brief, "tune" | "evolve" | "train") { brief } else { "run" };
    Err(Failure::wrong(
        format!("{shown} has kind = \"{brief}\": {what}"),
        format!("use {}, or write kind = \"{name}\" in a brief of that kind", hint::command([verb, &shown])),
    ))
}
