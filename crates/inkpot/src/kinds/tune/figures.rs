//! Figures of a tuning: the ladder, the search for one knob, the front of two targets.

use inkpot_figures::{Aim, AimLine, Front, FrontAxis, FrontMark, Ladder, LadderPanel, LadderRow, Words};
use inkpot_lab::{Met, ProbeCurve, Probed, Sample, SheetRung, Target, Tune, TuneFinding, TuneSummary, read_history};

use super::words::{verdict, wanted};
use crate::failure::Failure;
use crate::figure_name::Name;
use crate::figures::{Fitting, Gallery, estimate};
use crate::show::format::{confidence, count, figure, plain, round_percent, said};
use crate::stored::{self, HISTORY};

/// Points of a drawn curve.
const STEPS: u32 = 120;

/// Lists the figures of a tuning; a sheet that was measured again has no search.
pub(super) fn fitting<'g>(found: &'g TuneFinding, gallery: &'g Gallery) -> Result<Vec<Fitting<'g>>, Failure> {
    let mut fitting = vec![Fitting::new(Name::Ladder, || Ok(gallery.ladder(&found.tune).draw()))];
    if let Some((tune, history)) = search_of(gallery)? {
        if tune.follows_a_curve() {
            let (tune, history) = (tune.clone(), history.clone());
            fitting.push(Fitting::new(Name::Aim, move || Ok(gallery.aim(&found.tune, &tune, &history).draw())));
        }
        if let Some(front) = gallery.front(&found.tune, &tune, &history) {
            fitting.push(Fitting::new(Name::Front, move || Ok(front.draw())));
        }
    }
    // Rungs meet different players, so that their rates beside their costs would say nothing.
    Ok(fitting)
}

/// Reads the stored search: the tuning and its probes.
fn search_of(gallery: &Gallery) -> Result<Option<(Tune, Vec<Probed>)>, Failure> {
    if !stored::has_search(gallery.study) {
        return Ok(None);
    }
    let Some(tune) = stored::stored_search(gallery.study, &gallery.manifest)?.tune() else { return Ok(None) };
    let history = gallery.study.read_kept(&gallery.manifest, HISTORY)?;
    let history = read_history(&tune, &history).map_err(|error| Failure::Failed(error.to_string()))?;
    Ok(Some((*tune, history)))
}

impl Gallery<'_> {
    fn words(&self, title: String, subtitle: String, caption: &str) -> Words {
        Words { title, subtitle, caption: self.caption(caption) }
    }

    pub(super) fn ladder(&self, tuning: &TuneSummary) -> Ladder {
        let mut panels: Vec<LadderPanel> = Vec::new();
        for rung in &tuning.rungs {
            for target in &rung.targets {
                let title = self.target_title(target);
                let row = ladder_row(rung, target);
                match panels.iter_mut().find(|panel| panel.title == title) {
                    Some(panel) => panel.rows.push(row),
                    None => panels.push(LadderPanel { title, rate: target.is_rate(), rows: vec![row] }),
                }
            }
        }
        Ladder {
            words: self.words(
                self.title(),
                format!("Targets (shaded) and proved values, {} a rung and player", self.each()),
                if tuning.met {
                    "Proof on blocks that the search never saw."
                } else {
                    "Pale: not met, or not separable yet."
                },
            ),
            panels,
        }
    }

    /// A target for people: its label with whose it is.
    fn target_title(&self, target: &Target) -> String {
        let measure = self.measures.iter().find(|measure| measure.name == target.figure);
        let label = match target.figure.as_str() {
            "win_rate" => "Win rate of the player".to_string(),
            "draw_rate" => "Draw rate".into(),
            "score_margin" => "Score margin of the player".into(),
            "score" => "Score".into(),
            "length" => "Length".into(),
            name => measure.map_or_else(|| name.to_string(), inkpot_core::Measure::titled),
        };
        let seat = measure.is_some_and(|measure| measure.of == inkpot_core::MeasureOf::Seat);
        match target.side {
            inkpot_lab::Side::Opponent => format!("{label} of the opponent"),
            _ if seat => format!("{label} of the player"),
            _ => label,
        }
    }

    pub(super) fn aim(&self, tuning: &TuneSummary, tune: &Tune, history: &[Probed]) -> Aim {
        let free = &tune.free[0];
        let largest = history.iter().map(|tried| tried.probe.blocks).max().unwrap_or(1) as f64;
        let lines = tune.rungs.iter().zip(&tuning.rungs).enumerate().filter_map(|(place, (rung, proved))| {
            let probes = || history.iter().filter(move |tried| tried.probe.rung == place);
            let samples: Vec<(f64, Sample)> = probes().map(|tried| (tried.probe.point[0], tried.samples[0])).collect();
            let wanted = rung.targets.first()?.value?;
            let known = ProbeCurve::fit(free, &samples, wanted, self.summary.confidence)?;
            let (low, high) = free.bounds();
            let turned = proved.turned.first()?;
            let value = turned.value.number()?;
            Some(AimLine {
                name: rung.name.clone(),
                tried: probes()
                    .map(|tried| (tried.probe.point[0], tried.samples[0].mean, tried.probe.blocks as f64 / largest))
                    .collect(),
                curve: (0..=STEPS)
                    .map(|i| low + (high - low) * f64::from(i) / f64::from(STEPS))
                    .map(|x| (x, known.curve.at(x).value))
                    .collect(),
                wanted,
                value,
                interval: turned.low.zip(turned.high),
                text: format!("{} at {}", round_percent(wanted), plain(value)),
            })
        });
        Aim {
            words: Words {
                title: self.title(),
                subtitle: format!(
                    "Where the search played its {} matches: larger marks, more of them",
                    count(tuning.search_matches)
                ),
                // Not the caption of the proof's figures: these matches are others.
                caption: format!(
                    "Curve: of what the search saw. Shaded: {} interval of the value, by the search alone. {}, seed {}. \
                     Study {}.",
                    confidence(self.summary),
                    self.summary.game,
                    self.summary.seed,
                    self.summary.study
                ),
            },
            knob: free.name(),
            range: free.bounds(),
            lines: lines.collect(),
        }
    }

    /// Two targets of the rung that most stands in question: the missed one against another.
    pub(super) fn front(&self, tuning: &TuneSummary, tune: &Tune, history: &[Probed]) -> Option<Front> {
        let rungs = &tuning.rungs;
        let missed = |rung: &SheetRung| rung.targets.iter().position(|target| verdict(target) == Met::NotMet);
        let several = || rungs.iter().enumerate().filter(|(_, rung)| rung.targets.len() > 1);
        let (place, rung) = several().find(|(_, rung)| missed(rung).is_some()).or_else(|| several().next())?;
        let up = missed(rung).unwrap_or(1);
        let across = (0..rung.targets.len()).find(|target| *target != up)?;
        let probes = || history.iter().filter(move |tried| tried.probe.rung == place);
        let largest = probes().map(|tried| tried.probe.blocks).max()? as f64;
        let axis = |target: &Target| FrontAxis {
            title: self.target_title(target),
            wanted: target.ends(),
            rate: target.is_rate(),
        };
        let [x, y] = [across, up].map(|target| &rung.targets[target]);
        let tried = probes().map(|tried| FrontMark {
            at: (tried.samples[across].mean, tried.samples[up].mean),
            size: tried.probe.blocks as f64 / largest,
            text: format!(
                "{}: {} {}, {} {}",
                tune.point_text(&tried.probe.point),
                x.full_name(),
                plain(tried.samples[across].mean),
                y.full_name(),
                plain(tried.samples[up].mean)
            ),
        });
        let chosen = x.measured.zip(y.measured).map(|(x, y)| (estimate(&x.interval()), estimate(&y.interval())));
        let title = match verdict(y) {
            Met::NotMet => {
                format!("{} of {} is not met on {}", self.target_title(y), wanted(y), rung.name)
            }
            _ => format!("{} and {} on {}", self.target_title(x), lower(&self.target_title(y)), rung.name),
        };
        let subtitle = format!("All {} probes of the search on {}", probes().count(), rung.name);
        let mut front = Front {
            words: self.words(title, subtitle, "Shaded: the targets. Marks: means of probes, larger for more matches."),
            across: axis(x),
            up: axis(y),
            tried: tried.filter(|mark| mark.at.0.is_finite() && mark.at.1.is_finite()).collect(),
            chosen,
        };
        if front.edge().len() > 1 {
            front.words.subtitle.push_str("; the line joins those that no other beats in both");
        }
        Some(front)
    }
}

fn lower(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or_else(String::new, |first| first.to_lowercase().chain(letters).collect())
}

fn ladder_row(rung: &SheetRung, target: &Target) -> LadderRow {
    let interval = target.measured.map(|interval| interval.interval());
    let text = interval.map(|interval| if target.is_rate() { said(&interval) } else { figure(&interval) });
    LadderRow {
        name: rung.name.clone(),
        wanted: target.ends(),
        proved: interval.as_ref().map(estimate),
        text: text.unwrap_or_default(),
        verdict: verdict(target).word().into(),
        met: verdict(target) == Met::Met,
    }
}
