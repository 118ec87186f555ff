//! Every figure on ordinary data.

use inkpot_figures::{
    Aim, AimLine, Answer, Cost, CostMark, CostOf, Distribution, Drawing, Estimate, Forest, ForestRow, Front, FrontAxis,
    FrontMark, Group, Ladder, LadderPanel, LadderRow, Matrix, MatrixOf, Measures, OptionRow, OptionValues, Panel,
    PanelMark, Rates, RatesRow, Response, ResponsePoint, Rounds, RoundsLine, Running, Strength, Surface, Words,
};

pub(crate) fn words() -> Words {
    Words { title: "Heron leads".into(), subtitle: "Win rate".into(), caption: "95 % intervals.".into() }
}

pub(crate) fn estimate(value: f64, margin: f64) -> Estimate {
    Estimate { value, low: value - margin, high: value + margin }
}

pub(crate) fn rates(rows: &[(&str, f64, f64)]) -> Drawing {
    let row = |&(name, value, margin): &(&str, f64, f64)| RatesRow {
        name: name.into(),
        rate: estimate(value, margin),
        record: [55, 3, 42],
    };
    Rates { words: words(), rows: rows.iter().map(row).collect() }.draw()
}

pub(crate) fn birds() -> Vec<(&'static str, f64, f64)> {
    vec![("heron", 0.8, 0.05), ("avocet", 0.6, 0.05), ("dunlin", 0.5, 0.05), ("godwit", 0.1, 0.05)]
}

pub(crate) fn response(target: Option<f64>) -> Drawing {
    let shares = [0.9, 0.7, 0.4, 0.1];
    let points: Vec<ResponsePoint> = shares
        .iter()
        .enumerate()
        .map(|(i, share)| ResponsePoint { x: 0.25 * i as f64, label: None, rate: estimate(*share, 0.04) })
        .collect();
    let answer = |_| Answer { value: 0.3, name: "skill 0.3".into(), interval: "interval 0.28 to 0.32".into() };
    let answers = target.map(answer).into_iter().collect();
    let band = points.iter().map(|point| (point.x, point.rate)).collect();
    Response { words: words(), knob: "house.skill".into(), points, band, target, answers }.draw()
}

pub(crate) fn forest() -> Drawing {
    let row = |(name, rating, clear): (&str, f64, bool)| ForestRow {
        name: name.into(),
        rating: estimate(rating, 20.0),
        points: "61.3 %".into(),
        clear,
    };
    let rows = [("heron", 120.0, true), ("avocet", 10.0, false), ("godwit", -130.0, true)].map(row);
    Forest { words: words(), rows: rows.into() }.draw()
}

pub(crate) fn ladder() -> Drawing {
    let row = |name: &str, wanted: (f64, f64), value: f64, met: bool| LadderRow {
        name: name.into(),
        wanted,
        proved: Some(estimate(value, 0.02)),
        text: format!("{:.0}%", 100.0 * value),
        verdict: if met { "met".into() } else { "not met".into() },
        met,
    };
    let rows = vec![
        row("gentle", (0.65, 0.75), 0.7, true),
        row("fierce", (0.2, 0.3), 0.4, false),
        row("any", (0.5, f64::INFINITY), 0.6, true),
    ];
    Ladder { words: words(), panels: vec![LadderPanel { title: "Win rate of the player".into(), rate: true, rows }] }
        .draw()
}

pub(crate) fn aim() -> Drawing {
    let line = AimLine {
        name: "gentle".into(),
        tried: vec![(0.0, 0.9, 0.2), (0.5, 0.7, 1.0), (1.0, 0.2, 0.2)],
        curve: (0..=20).map(|i| (f64::from(i) / 20.0, 0.9 - 0.7 * f64::from(i) / 20.0)).collect(),
        wanted: 0.7,
        value: 0.5,
        interval: Some((0.45, 0.55)),
        text: "70 % at 0.5".into(),
    };
    Aim { words: words(), knob: "opponent.skill".into(), range: (0.0, 1.0), lines: vec![line] }.draw()
}

pub(crate) fn front() -> Front {
    let mark = |at: (f64, f64), size: f64| FrontMark { at, size, text: format!("{at:?}") };
    Front {
        words: words(),
        across: FrontAxis { title: "Win rate".into(), wanted: (0.45, 0.55), rate: true },
        up: FrontAxis { title: "Length (s)".into(), wanted: (30.0, f64::INFINITY), rate: false },
        tried: vec![mark((0.5, 20.0), 1.0), mark((0.7, 35.0), 0.5), mark((0.6, 25.0), 0.5), mark((0.8, 22.0), 0.2)],
        chosen: Some((estimate(0.52, 0.01), estimate(24.0, 1.0))),
    }
}

pub(crate) fn distribution() -> Drawing {
    let group =
        |name: &str, counts: &[u64]| Group { name: name.into(), counts: counts.into(), mean: Some(estimate(1.0, 0.1)) };
    let groups = vec![group("heron", &[10, 20, 70]), group("godwit", &[70, 20, 10])];
    Distribution { words: words(), label: "Score".into(), edges: vec![-0.5, 0.5, 1.5, 2.5], whole: true, groups }.draw()
}

pub(crate) fn names() -> Vec<String> {
    birds().iter().map(|(name, ..)| (*name).to_string()).collect()
}

pub(crate) fn matrix() -> Drawing {
    let rate = |row: usize, column: usize| estimate(0.5 + 0.1 * (column as f64 - row as f64), 0.04);
    let cell = |row: usize, column: usize| (row != column).then(|| rate(row, column));
    let cells = (0..4).map(|row| (0..4).map(|column| cell(row, column)).collect()).collect();
    Matrix { words: words(), of: MatrixOf::Rates, names: names(), cells }.draw()
}

pub(crate) fn surface() -> Drawing {
    let values = |count: usize| (0..count).map(|i| format!("{}", 0.25 * i as f64)).collect();
    Surface {
        of: MatrixOf::Rates,
        words: words(),
        across: ("house.reaction".into(), values(5)),
        up: ("house.aggression".into(), values(4)),
        cells: (0..4).map(|i| (0..5).map(|j| Some(estimate(0.1 * f64::from(i + j), 0.05))).collect()).collect(),
        target: Some(0.5),
    }
    .draw()
}

pub(crate) fn rounds() -> Drawing {
    let line = |(i, name): (usize, String)| RoundsLine {
        name,
        points: (1..=5).map(|round| (round, estimate(100.0 - 60.0 * i as f64, 30.0))).collect(),
    };
    Rounds { words: words(), lines: names().into_iter().enumerate().map(line).collect() }.draw()
}

pub(crate) fn running() -> Drawing {
    Running {
        words: words(),
        figure: "Win rate of heron".into(),
        looks: (1..=80).map(|block| (block, estimate(0.58, 1.0 / (block as f64).sqrt()))).collect(),
        even: 0.5,
        equal_within: Some(0.03),
        clear: Some((60, "clear after 60 blocks: better".into())),
    }
    .draw()
}

pub(crate) fn measures() -> Drawing {
    let mark = |(i, name): (usize, String)| PanelMark { name, x: 0.0, estimate: estimate(i as f64, 0.2) };
    let panel = |label: &str| Panel {
        label: label.into(),
        marks: names().into_iter().enumerate().map(mark).collect(),
        knob: None,
    };
    Measures { words: words(), panels: ["Length (s)", "Lunges", "Parries"].map(panel).into() }.draw()
}

pub(crate) fn cost() -> Drawing {
    let mark = |(i, (name, rate, margin)): (usize, (&str, f64, f64))| CostMark {
        name: name.into(),
        rate: estimate(rate, margin),
        cost: Some(10f64.powi(i as i32)),
        most: Some(3.0 * 10f64.powi(i as i32)),
    };
    let marks = birds().into_iter().enumerate().map(mark).collect();
    let (strength, of) = (Strength::WinRate, CostOf::Time);
    Cost { words: words(), strength, of, marks, joined: false, frame_us: Some(16_700.0) }.draw()
}

pub(crate) fn options() -> Drawing {
    let option = |(i, name): (usize, String)| OptionRow {
        name,
        value: Some(1.5 - i as f64),
        bound: i == 2,
        share: Some(0.25),
        chosen: i == 0,
        line: "3 6 2".into(),
    };
    OptionValues { words: words(), rows: names().into_iter().enumerate().map(option).collect() }.draw()
}

/// Every figure on ordinary data.
pub(crate) fn ordinary() -> Vec<(&'static str, Drawing)> {
    vec![
        ("rates", rates(&birds())),
        ("matrix", matrix()),
        ("response", response(Some(0.55))),
        ("surface", surface()),
        ("forest", forest()),
        ("rounds", rounds()),
        ("running", running()),
        ("ladder", ladder()),
        ("aim", aim()),
        ("front", front().draw()),
        ("distribution", distribution()),
        ("measures", measures()),
        ("cost", cost()),
        ("options", options()),
    ]
}
