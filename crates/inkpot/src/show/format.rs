//! Numbers as text.

use inkpot_core::Row;
use inkpot_lab::{Pace, StudySummary};
pub(crate) use inkpot_lab::{count, counted};
use inkpot_stats::{Interval, Mean, Solved};

/// A share: `55.2 %`.
pub(crate) fn percent(share: f64) -> String {
    format!("{:.1} %", share * 100.0)
}

/// A share without a decimal that says nothing: `70 %`, `62.5 %`.
pub(crate) fn round_percent(share: f64) -> String {
    percent(share).replace(".0 %", " %")
}

/// The confidence of a study's intervals: `95 %`.
pub(crate) fn confidence(summary: &StudySummary) -> String {
    round_percent(summary.confidence)
}

/// The position of a rate relative to one half.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Standing {
    /// It is always the same match.
    Decided,
    /// It is clearly above one half.
    Above,
    /// It is clearly below one half.
    Below,
    /// Neither is known.
    Open,
}

impl Standing {
    pub(crate) fn of(rate: &Interval) -> Self {
        match rate {
            rate if rate.is_exact() => Self::Decided,
            rate if rate.low > 0.5 => Self::Above,
            rate if rate.high < 0.5 => Self::Below,
            _ => Self::Open,
        }
    }
}

/// Writes the words beside a rate that is not simply above or below one half.
pub(crate) fn standing(rate: &Interval) -> String {
    match Standing::of(rate) {
        Standing::Decided => DECIDED.into(),
        Standing::Open => "not separable yet".into(),
        Standing::Above | Standing::Below => String::new(),
    }
}

/// The word for a figure without error.
const DECIDED: &str = "decided";

/// A share with its interval: `55.2 %  51.8-58.5`.
pub(crate) fn rate(interval: &Interval) -> String {
    format!("{}  {}", percent(interval.value), ends(interval))
}

/// The same for sentences: `55.2 % (51.8-58.5)`.
pub(crate) fn said(interval: &Interval) -> String {
    format!("{} ({})", percent(interval.value), ends(interval))
}

/// The ends of a share's interval: `51.8-58.5`.
pub(crate) fn ends(interval: &Interval) -> String {
    if interval.is_exact() {
        return DECIDED.into();
    }
    format!("{:.1}-{:.1}", interval.low * 100.0, interval.high * 100.0)
}

/// A number with as many decimals as `interval` makes meaningful, and the interval: `1.28  1.25-1.31`.
pub(crate) fn figure(interval: &Interval) -> String {
    let places = places(interval);
    format!("{:.places$}  {}", interval.value, span(interval.low, interval.high))
}

/// Writes a mean with its interval, or with the reason of its absence.
pub(crate) fn mean(mean: &Mean) -> String {
    mean.interval()
        .map_or_else(|| format!("{:.2}  {}", mean.value, without_interval(mean)), |interval| figure(&interval))
}

/// The same for sentences.
pub(crate) fn said_mean(mean: &Mean) -> String {
    mean.interval().map_or_else(
        || format!("{:.2} ({})", mean.value, without_interval(mean)),
        |interval| said_figure(&interval, ""),
    )
}

/// Writes the words in place of an interval.
fn without_interval(mean: &Mean) -> &'static str {
    if mean.alike { "in every block" } else { "too few blocks" }
}

/// The same for sentences: `28.86 s (28.68-29.04)`.
pub(crate) fn said_figure(interval: &Interval, unit: &str) -> String {
    let places = places(interval);
    format!("{:.places$}{unit} ({})", interval.value, span(interval.low, interval.high))
}

/// Two ends with as many decimals as their distance makes meaningful: `0.221-0.258`.
pub(crate) fn span(low: f64, high: f64) -> String {
    if low == high {
        return DECIDED.into();
    }
    let places = places(&Interval { value: low, low, high });
    let dash = if low < 0.0 { " to " } else { "-" };
    format!("{low:.places$}{dash}{high:.places$}")
}

/// A solved value and its interval, with as many decimals as the interval makes meaningful.
pub(crate) fn solution(solved: &Solved) -> (String, String) {
    let half = Interval {
        value: solved.value,
        low: solved.low.unwrap_or(solved.value),
        high: solved.high.unwrap_or(solved.value),
    };
    let places = places(&half);
    let end = |end: Option<f64>| end.map_or_else(|| "beyond what was measured".into(), |x| format!("{x:.places$}"));
    let ends = match (solved.low, solved.high) {
        (None, None) => "wider than what was measured".into(),
        (low, high) => format!("{} to {}", end(low), end(high)),
    };
    (format!("{:.places$}", solved.value), ends)
}

/// Decimals so that the interval's half width shows two digits.
pub(crate) fn places(interval: &Interval) -> usize {
    let half = interval.half_width();
    if half <= 0.0 || !half.is_finite() {
        return 2;
    }
    (1.0 - half.log10().floor()).clamp(0.0, 4.0) as usize
}

/// A plain number of at most four decimals, without trailing zeros.
pub(crate) fn plain(x: f64) -> String {
    format!("{}", (x * 1e4).round() / 1e4)
}

/// A number with this many significant digits, without trailing zeros behind the point: `0.24`, `3.5`, `-5.32`.
pub(crate) fn significant(x: f64, digits: usize) -> String {
    if x == 0.0 || !x.is_finite() {
        return x.abs().to_string();
    }
    let before = x.abs().log10().floor() as i32 + 1;
    let places = (digits as i32 - before).max(0) as usize;
    let text = format!("{x:.places$}");
    if text.contains('.') { text.trim_end_matches('0').trim_end_matches('.').to_string() } else { text }
}

/// A whole number; nothing below 0 that is not one below it.
pub(crate) fn whole(x: f64) -> String {
    format!("{:.0}", x.round() + 0.0)
}

/// A sentence with its first letter large.
pub(crate) fn capital(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or_else(String::new, |first| first.to_uppercase().chain(letters).collect())
}

/// A p-value: `p = 0.04`, `p < 0.001`.
pub(crate) fn p_value(p: f64) -> String {
    if p < 0.001 { "p < 0.001".into() } else { format!("p = {p:.2}") }
}

/// Writes a match's ending in a sentence, from its rows and the names by seat.
pub(crate) fn ending(rows: &[Row], names: &[&str]) -> String {
    let winners: Vec<&str> =
        rows.iter().zip(names).filter(|(row, _)| row.placement == 1).map(|(_, name)| *name).collect();
    let ending = rows.first().map(|row| row.ending.to_string()).unwrap_or_default();
    match winners.as_slice() {
        [] if ending == "abandoned" => "The match was abandoned and counts for nobody.".into(),
        [_] if names.len() == 1 => format!("The match is over ({ending})."),
        [winner] => format!("{winner} wins ({ending})."),
        [] => format!("No winner ({ending})."),
        _ => format!("A draw ({ending})."),
    }
}

/// Seconds as people say them.
pub(crate) fn duration(seconds: f64) -> String {
    match seconds {
        s if s < 1.0 => "under a second".into(),
        s if s < 90.0 => format!("{s:.0} s"),
        s if s < 5400.0 => format!("{:.0} min", s / 60.0),
        s => format!("{:.1} h", s / 3600.0),
    }
}

/// About how long this many matches take on this many threads.
pub(crate) fn about(pace: &Pace, matches: u64, threads: usize) -> String {
    let seconds = pace.seconds(matches, threads);
    match (pace.longer, seconds < 1.0) {
        (true, _) => format!("more than {}", duration(seconds)),
        (false, true) => duration(seconds),
        (false, false) => format!("about {}", duration(seconds)),
    }
}

/// A bar of a share, `cells` wide; plain signs where the terminal does not speak UTF-8.
pub(crate) fn bar(share: f64, cells: usize) -> String {
    let eighths = (share.clamp(0.0, 1.0) * (cells * 8) as f64).round() as usize;
    if !utf8() {
        return format!("{:<cells$}", "#".repeat((eighths + 4) / 8));
    }
    let part = ["", "▏", "▎", "▍", "▌", "▋", "▊", "▉"][eighths % 8];
    format!("{}{part}", "█".repeat(eighths / 8))
}

/// Whether the locale says that the terminal speaks UTF-8; taken for granted where it says nothing.
pub(crate) fn utf8() -> bool {
    let set =
        ["LC_ALL", "LC_CTYPE", "LANG"].into_iter().find_map(|name| std::env::var(name).ok().filter(|v| !v.is_empty()));
    set.is_none_or(|locale| locale.to_lowercase().replace('-', "").contains("utf8"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn figures_show_the_digits_that_their_interval_carries() {
        let interval = |value, low, high| Interval { value, low, high };
        assert_eq!(figure(&interval(1.2843, 1.2512, 1.3174)), "1.284  1.251-1.317");
        assert_eq!(figure(&interval(1234.5, 1200.0, 1269.0)), "1234  1200-1269");
        assert_eq!(figure(&interval(0.1, -0.3, 0.5)), "0.10  -0.30 to 0.50");
        assert_eq!(rate(&interval(0.552, 0.518, 0.585)), "55.2 %  51.8-58.5");
    }

    #[test]
    fn significant_digits_are_kept_and_empty_places_are_not() {
        let texts = [0.24, 0.043_371, 3.5, -5.3188, 1234.5, 0.0, 12.0].map(|x| significant(x, 3));
        assert_eq!(texts, ["0.24", "0.0434", "3.5", "-5.32", "1234", "0", "12"]);
    }

    #[test]
    fn whole_numbers_have_no_sign_at_zero() {
        assert_eq!([-0.4, 0.4, -0.6, 12.5].map(whole), ["0", "0", "-1", "13"]);
    }
}
