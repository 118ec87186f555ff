//! From stored studies to figures: which fit, and what they say.

mod comparison;
mod cost;
mod field;
mod measures;
pub(crate) mod name;
mod spread;
mod sweep;
mod tune;

use std::path::{Path, PathBuf};

use inkpot_core::{Measure, nearest};
use inkpot_figures::{Drawing, Estimate};
use inkpot_lab::{EntrantSummary, Plan, Probed, StudyKind, Summary, Tune};
use inkpot_ledger::{Manifest, Study};
use inkpot_stats::Interval;

pub(crate) use self::name::Name;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::show::format::{count, percent};
use crate::show::ranking;
use crate::show::summary::finding;
use crate::stored;

/// Pixels a unit of a PNG: sharp on a screen of high density.
const PNG_SCALE: f32 = 2.0;
/// Larger fields have no figures of measures and distributions.
const MOST_GROUPS: usize = 64;

/// The figures of one study.
pub(crate) struct Gallery<'a> {
    study: &'a Study,
    manifest: Manifest,
    plan: Plan,
    summary: &'a Summary,
    measures: &'a [Measure],
    shown: Vec<&'a Measure>,
    search: Option<(Tune, Vec<Probed>)>,
}

/// The bytes of a drawing in the format that the file's ending says.
pub(crate) fn bytes(drawing: &Drawing, path: &Path) -> Result<Vec<u8>, Failure> {
    match path.extension().and_then(|ending| ending.to_str()) {
        Some("svg") => Ok(drawing.svg().as_bytes().to_vec()),
        Some("png") => drawing.png(PNG_SCALE).map_err(|error| Failure::Failed(error.to_string())),
        _ => Err(Failure::wrong(
            format!("{} is neither SVG nor PNG", path.display()),
            "end the file's name in .svg or .png",
        )),
    }
}

/// Writes a drawing to a file in the format that its ending says.
pub(crate) fn save(drawing: &Drawing, path: &Path) -> Result<(), Failure> {
    std::fs::write(path, bytes(drawing, path)?).map_err(|error| Failure::file("write", path, &error))
}

impl<'a> Gallery<'a> {
    /// The gallery of a complete study; `measures` names those to show.
    pub(crate) fn new(
        study: &'a Study,
        summary: &'a Summary,
        measures: &[String],
        desk: &'a Desk,
    ) -> Result<Self, Failure> {
        let (manifest, plan) = stored::open(study, desk)?;
        let all = &desk.game(&summary.game)?.sheet().measures;
        let find = |name: &String| {
            all.iter().find(|measure| measure.name == *name).ok_or_else(|| {
                let names: Vec<&str> = all.iter().map(|measure| measure.name.as_str()).collect();
                let near = nearest(name, names.iter().copied())
                    .map(|near| format!("did you mean `{near}`? "))
                    .unwrap_or_default();
                Failure::wrong(
                    format!("there is no measure `{name}`"),
                    format!("{near}There are: {}", names.join(", ")),
                )
            })
        };
        let asked = measures.iter().map(find).collect::<Result<Vec<_>, _>>()?;
        let shown = if asked.is_empty() { measures::varied(all, summary) } else { asked };
        let mut gallery = Self { study, manifest, plan, summary, measures: all, shown, search: None };
        if summary.kind() == StudyKind::Tune {
            gallery.search = tune::search_of(&gallery)?;
        }
        Ok(gallery)
    }

    /// The figures that fit the study.
    fn fitting(&self) -> Vec<Name> {
        let pairs = self.summary.pairings.len();
        let mut fitting = match (self.summary.kind(), self.plan.vary().len()) {
            (StudyKind::Batch, _) if pairs > 1 => vec![Name::Rates, Name::Matrix],
            (StudyKind::Batch, _) => vec![Name::Rates],
            (StudyKind::Sweep, 1) => vec![Name::Response],
            (StudyKind::Sweep, _) => return vec![Name::Surface],
            (StudyKind::Compare, _) => vec![Name::Running],
            (StudyKind::Tune, _) => vec![Name::Ladder],
            (StudyKind::Tournament, _) => {
                let mut fitting = vec![Name::Ratings, Name::Matrix, Name::Residuals];
                if self.summary.tournament().is_some_and(|told| !told.progress.is_empty()) {
                    fitting.push(Name::Rounds);
                }
                fitting
            }
        };
        if let Some((tune, history)) = &self.search {
            if tune.follows_a_curve() {
                fitting.push(Name::Aim);
            }
            if self.front(tune, history).is_some() {
                fitting.push(Name::Front);
            }
        }
        if self.summary.kind() != StudyKind::Tune && self.plan.entrants.len() <= MOST_GROUPS {
            fitting.extend([Name::Scores, Name::Lengths, Name::Measures]);
        }
        let thinks = self.summary.entrants.iter().any(|entrant| entrant.nodes.is_some());
        if thinks && !self.manifest.decision_times.is_empty() {
            fitting.push(Name::Cost);
        }
        fitting
    }

    /// Draws all that fit, in order.
    pub(crate) fn drawings(&self) -> Result<Vec<(Name, Drawing)>, Failure> {
        // The rows are read once for all distributions.
        let fitting = self.fitting();
        let (spread, others): (Vec<Name>, Vec<Name>) = fitting.iter().partition(|name| name.is_spread());
        let mut drawings =
            others.into_iter().map(|name| Ok((name, self.draw(name)?))).collect::<Result<Vec<_>, Failure>>()?;
        for (name, distribution) in spread.iter().zip(spread::distributions(self, &spread)?) {
            drawings.push((*name, distribution.draw()));
        }
        drawings.sort_by_key(|(name, _)| fitting.iter().position(|other| other == name));
        Ok(drawings)
    }

    /// Draws all that fit into the study's folder, as SVG and PNG.
    pub(crate) fn draw_all(&self, study: &Study) -> Result<Vec<PathBuf>, Failure> {
        let mut files = Vec::new();
        for (name, drawing) in &self.drawings()? {
            for ending in ["svg", "png"] {
                let file = format!("figures/{}.{ending}", name.word());
                let path = study.folder().join(&file);
                study.write(&file, &bytes(drawing, &path)?)?;
                files.push(path);
            }
        }
        Ok(files)
    }

    /// Draws one figure.
    pub(crate) fn draw(&self, name: Name) -> Result<Drawing, Failure> {
        if !self.fitting().contains(&name) {
            let fitting: Vec<String> = self.fitting().into_iter().map(Name::word).collect();
            let study = &self.summary.study;
            return Err(Failure::wrong(
                format!("the figure `{}` does not fit the {} `{study}`", name.word(), self.summary.kind().name()),
                format!("these do: {}", fitting.join(", ")),
            ));
        }
        Ok(match name {
            Name::Rates => self.rates().draw(),
            Name::Matrix => self.matrix().draw(),
            Name::Response => self.response().draw(),
            Name::Surface => self.surface().draw(),
            Name::Scores | Name::Lengths => spread::distributions(self, &[name])?.remove(0).draw(),
            Name::Measures => self.measures().draw(),
            Name::Cost => cost::cost(self).draw(),
            Name::Ratings => self.forest().draw(),
            Name::Residuals => self.residuals().draw(),
            Name::Rounds => self.rounds().draw(),
            Name::Running => self.running()?.draw(),
            Name::Ladder => self.ladder().draw(),
            Name::Aim | Name::Front => {
                let missing = || Failure::Failed("the study keeps no search".into());
                let (tune, history) = self.search.as_ref().ok_or_else(missing)?;
                match name {
                    Name::Aim => self.aim(tune, history).draw(),
                    _ => self.front(tune, history).ok_or_else(missing)?.draw(),
                }
            }
        })
    }

    fn caption(&self, method: &str) -> String {
        format!(
            "{method} {} intervals over {} blocks. {}, seed {}. Study {}.",
            percent(self.summary.confidence).replace(".0 %", "%"),
            count(self.summary.blocks),
            self.summary.game,
            self.summary.seed,
            self.summary.study
        )
    }

    fn each(&self) -> String {
        format!("{} matches", count(self.plan.blocks * self.plan.matches_a_block()))
    }

    fn ranked(&self) -> Vec<&EntrantSummary> {
        let mut ranked: Vec<_> = self.summary.entrants.iter().collect();
        let value = |entrant: &EntrantSummary| entrant.win_rate.map_or(-1.0, |rate| rate.value);
        ranked.sort_by(|a, b| value(b).total_cmp(&value(a)));
        ranked
    }

    fn title(&self) -> String {
        let sentence = match self.summary.kind() {
            StudyKind::Tournament => ranking::headline(self.summary),
            _ => finding(self.summary),
        };
        sentence.trim_end_matches('.').replace(" %", "%").replace("  ", " ")
    }
}

pub(crate) fn estimate(interval: &Interval) -> Estimate {
    Estimate { value: interval.value, low: interval.low, high: interval.high }
}
