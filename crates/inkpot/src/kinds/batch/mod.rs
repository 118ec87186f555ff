//! Batches: win rates and pairings.

use inkpot_figures::Drawing;
use inkpot_lab::{Batch, BatchFinding, StudyPlan, StudySummary};

use crate::brief::BriefText;
use crate::failure::Failure;
use crate::figure_name::Name;
use crate::figures::{Fitting, Gallery};
use crate::kinds::kind::{Part, Tells, Written};
use crate::show::format::{Standing, counted, said};
use crate::show::study_view::StudyView;
use crate::show::{costs, entrants, measures};

impl Tells for BatchFinding {
    fn sentence(&self, summary: &StudySummary) -> String {
        let matches = counted(summary.matches, "match", "matches");
        if let ([pairing], Some(win_rate)) =
            (summary.pairings.as_slice(), summary.pairings.first().and_then(|p| p.win_rate))
        {
            let (a, b) = (&pairing.a, &pairing.b);
            return match Standing::of(&win_rate) {
                Standing::Decided => {
                    format!("{a} takes {} against {b}: it is always the same match.", said(&win_rate))
                }
                Standing::Above => format!("{a} beats {b}: {} of {matches}.", said(&win_rate)),
                Standing::Below => format!("{b} beats {a}: {} of {matches}.", said(&win_rate.complement())),
                Standing::Open => {
                    format!("{a} and {b} are not separable yet: {a} takes {} of {matches}.", said(&win_rate))
                }
            };
        }
        let rated = summary.entrants.iter().filter_map(|entrant| Some((entrant, entrant.rate()?)));
        let mut ranked: Vec<_> = rated.collect();
        ranked.sort_by(|a, b| b.1.value.total_cmp(&a.1.value));
        let [(first, best), (second, next), ..] = ranked.as_slice() else {
            return match ranked.first() {
                Some((only, rate)) => format!("{} succeeds in {} of {matches}.", only.name, said(rate)),
                None => format!("{matches} played."),
            };
        };
        if best.low > next.high {
            let matches = counted(first.matches, "match", "matches");
            format!("{} leads the field: {} of its {matches}.", first.name, said(best))
        } else {
            // Those that may be as good as the first.
            let near: Vec<_> = ranked[1..].iter().filter(|(_, rate)| rate.high >= best.low).collect();
            let others = match near.as_slice() {
                [(second, _)] => second.name.clone(),
                [(second, _), (third, _)] => format!("{} and {}", second.name, third.name),
                [(second, _), rest @ ..] => format!("{} and {} others", second.name, rest.len()),
                [] => second.name.clone(),
            };
            format!("{} is first with {}: not separable yet from {others}.", first.name, said(best))
        }
    }

    fn parts(&self, view: &StudyView) -> Vec<Part> {
        let mut parts = vec![
            Part::Table(entrants::table(view.summary)),
            Part::Table(costs::table(view)),
            Part::Table(entrants::pairings(view.summary)),
        ];
        parts.extend(measures::tables(view).map(Part::Table));
        parts
    }

    fn figures<'g>(&'g self, gallery: &'g Gallery) -> Result<Vec<Fitting<'g>>, Failure> {
        let mut fitting = Vec::new();
        if gallery.summary.entrants.iter().any(|entrant| entrant.win_rate.is_some()) {
            fitting.push(Fitting::new(Name::Rates, || Ok(gallery.rates().draw())));
        }
        if gallery.summary.pairings.len() > 1 {
            let matrix = || -> Result<Drawing, Failure> { Ok(gallery.matrix().draw()) };
            fitting.push(Fitting::new(Name::Matrix, matrix));
        }
        fitting.extend(gallery.common());
        Ok(fitting)
    }
}

impl Written for Batch {
    fn write(&self, _plan: &StudyPlan, _brief: &mut BriefText) {}
}
