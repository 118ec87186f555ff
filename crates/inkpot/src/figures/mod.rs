//! From stored studies to figures: which fit, and what they say.

mod cost;
mod field;
mod measures;
pub(crate) mod name;
mod spread;

use std::path::{Path, PathBuf};

use inkpot_core::{Measure, nearest};
use inkpot_figures::{Drawing, Estimate};
use inkpot_lab::{Plan, Summary};
use inkpot_ledger::{Manifest, Study};
use inkpot_stats::Interval;

pub(crate) use self::name::Name;
use crate::desk::Desk;
use crate::failure::Failure;
use crate::kinds;
use crate::show::format::{confidence, count};
use crate::stored;

/// Pixels a unit of a PNG: sharp on a screen of high density.
const PNG_SCALE: f32 = 2.0;
/// Larger fields have no figures of measures and distributions.
const MOST_GROUPS: usize = 64;

/// The figures of one study.
pub(crate) struct Gallery<'a> {
    pub(crate) study: &'a Study,
    manifest: Manifest,
    pub(crate) plan: Plan,
    pub(crate) summary: &'a Summary,
    pub(crate) measures: &'a [Measure],
    shown: Vec<&'a Measure>,
}

/// Draws a figure.
type Draw<'g> = Box<dyn Fn() -> Result<Drawing, Failure> + 'g>;

/// A figure that fits a study, not drawn yet.
pub(crate) struct Fitting<'g> {
    name: Name,
    draw: Draw<'g>,
}

impl<'g> Fitting<'g> {
    /// A figure of this name.
    pub(crate) fn new(name: Name, draw: impl Fn() -> Result<Drawing, Failure> + 'g) -> Self {
        Self { name, draw: Box::new(draw) }
    }
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
        Ok(Self { study, manifest, plan, summary, measures: all, shown })
    }

    /// The figures that fit the study.
    fn fitting(&self) -> Result<Vec<Fitting<'_>>, Failure> {
        kinds::of(self.summary).figures(self)
    }

    /// What fits every study that has entrants or points to set side by side.
    pub(crate) fn common(&self) -> Vec<Fitting<'_>> {
        let mut fitting = Vec::new();
        if self.plan.entrants.len() <= MOST_GROUPS {
            fitting
                .extend([Name::Scores, Name::Lengths].map(|name| {
                    Fitting::new(name, move || Ok(spread::distributions(self, &[name])?.remove(0).draw()))
                }));
            fitting.push(Fitting::new(Name::Measures, || Ok(self.measures().draw())));
        }
        fitting.extend(self.cost());
        fitting
    }

    /// What decisions cost, where somebody searches.
    pub(crate) fn cost(&self) -> Option<Fitting<'_>> {
        let thinks = self.summary.entrants.iter().any(|entrant| entrant.nodes.is_some());
        let timed = thinks && !self.manifest.decision_times.is_empty();
        timed.then(|| Fitting::new(Name::Cost, || Ok(cost::cost(self).draw())))
    }

    /// Draws all that fit, in order.
    pub(crate) fn drawings(&self) -> Result<Vec<(Name, Drawing)>, Failure> {
        // The rows are read once for all distributions.
        let fitting = self.fitting()?;
        let names: Vec<Name> = fitting.iter().map(|own| own.name).collect();
        let (spread, others): (Vec<Fitting>, Vec<Fitting>) = fitting.into_iter().partition(|own| own.name.is_spread());
        let mut drawings =
            others.iter().map(|own| Ok((own.name, (own.draw)()?))).collect::<Result<Vec<_>, Failure>>()?;
        let spread: Vec<Name> = spread.iter().map(|own| own.name).collect();
        for (name, distribution) in spread.iter().zip(spread::distributions(self, &spread)?) {
            drawings.push((*name, distribution.draw()));
        }
        drawings.sort_by_key(|(name, _)| names.iter().position(|other| other == name));
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
        let fitting = self.fitting()?;
        if let Some(own) = fitting.iter().find(|own| own.name == name) {
            return (own.draw)();
        }
        let names: Vec<String> = fitting.iter().map(|own| own.name.word()).collect();
        let (kind, study) = (self.summary.kind().name(), &self.summary.study);
        Err(Failure::wrong(
            format!("the figure `{}` does not fit the {kind} `{study}`", name.word()),
            format!("these do: {}", names.join(", ")),
        ))
    }

    pub(crate) fn caption(&self, method: &str) -> String {
        format!(
            "{method} {} intervals over {} blocks. {}, seed {}. Study {}.",
            tight(&confidence(self.summary)),
            count(self.summary.blocks),
            self.summary.game,
            self.summary.seed,
            self.summary.study
        )
    }

    pub(crate) fn each(&self) -> String {
        format!("{} matches", count(self.plan.blocks * self.plan.matches_a_block()))
    }

    pub(crate) fn title(&self) -> String {
        let sentence = kinds::of(self.summary).headline(self.summary);
        tight(sentence.trim_end_matches('.')).replace("  ", " ")
    }
}

/// A text as figures set it: no space before a percent sign.
pub(crate) fn tight(text: &str) -> String {
    text.replace(" %", "%")
}

pub(crate) fn estimate(interval: &Interval) -> Estimate {
    Estimate { value: interval.value, low: interval.low, high: interval.high }
}
