//! The keys of a sweep's brief.

use inkpot_lab::{KindDraft, StudyKind, StudyPlan, Subject, Sweep, SweepDraft, VaryDraft, VaryRange};
use toml::{Table, Value};

use crate::brief::{BriefText, Reader, value};
use crate::kinds::kind::{OwnKey, Written};

/// Keys that only a sweep has.
pub(crate) const KEYS: &[OwnKey] =
    &[OwnKey { key: "vary", elsewhere: vary_elsewhere }, OwnKey { key: "target", elsewhere: target_elsewhere }];

fn vary_elsewhere(_key: &str, here: StudyKind) -> (String, String) {
    let field = if here == StudyKind::Batch { "" } else { "; for a field, put `vary` into an [[entrant]]" };
    let help = format!("use kind = \"sweep\", or leave [[vary]] out{field}");
    (format!("a {} does not vary knobs", here.name()), help)
}

fn target_elsewhere(_key: &str, _here: StudyKind) -> (String, String) {
    let help = "use kind = \"sweep\" with a [[vary]], or leave `target` out";
    ("only a sweep has a target".into(), help.into())
}

/// Reads them.
pub(crate) fn read(top: &mut Reader) -> KindDraft {
    KindDraft::Sweep(SweepDraft {
        vary: top.tables("vary").into_iter().map(vary).collect(),
        target: top.number("target"),
    })
}

fn vary(mut table: Reader) -> VaryDraft {
    let of = table.text("of");
    let knob = table.needed_text("knob", "`knob = \"skill\"`").unwrap_or_default();
    let values = table.values("values");
    let (low, high, points) = (table.number("from"), table.number("to"), table.count("points"));
    let range = match (values, low, high, points) {
        (Some(values), None, None, None) => VaryRange::List(values),
        (None, Some(low), Some(high), Some(points)) => VaryRange::Span { low, high, points },
        _ => {
            let what = "the values of the knob are not given";
            table.problem("", what, "give either `values = [...]` or all of `from`, `to` and `points`");
            VaryRange::List(Vec::new())
        }
    };
    table.finish();
    VaryDraft { of, knob, range }
}

impl Written for Sweep {
    fn write(&self, plan: &StudyPlan, brief: &mut BriefText) {
        brief.put_some("target", self.target);
        for vary in &self.vary {
            let of = match vary.subject {
                Subject::Rules => Some("rules"),
                Subject::Generator => Some("level"),
                Subject::Level => None,
                Subject::Entrant(place) => Some(plan.entrants[place].name.as_str()),
            };
            let mut table = Table::new();
            if let Some(of) = of {
                table.insert("of".into(), of.into());
            }
            table.insert("knob".into(), vary.knob.as_str().into());
            table.insert("values".into(), Value::Array(vary.values.iter().map(value).collect()));
            brief.table(&format!("[[vary]]\n{table}"));
        }
    }
}
