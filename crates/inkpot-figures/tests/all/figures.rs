//! Every figure on ordinary and on awkward data: nothing leaves the picture, and the same data give the same bytes.

use std::sync::Arc;

use inkpot_figures::{
    Answer, Cost, CostMark, CostOf, Distribution, Drawing, Estimate, Forest, ForestRow, Group, Learning,
    LearningSearch, Matrix, MatrixOf, Measures, OptionRow, OptionValues, Panel, PanelMark, Paths, PathsShape, Rates,
    RatesRow, Response, ResponsePoint, Rounds, RoundsLine, Running, Strength, Surface, Traces, TracesPanel, Words,
};
use resvg::usvg::{Options, Tree, fontdb};

const LONG: &str = "an entrant whose name is a good deal longer than any column could ever hope to be";

fn estimate(value: f64) -> Estimate {
    Estimate { value, low: (value - 0.06).max(0.0), high: (value + 0.06).min(1.0) }
}

fn words() -> Words {
    Words {
        title: "Heron leads the field by so much that the sentence which says it does not fit the width of the picture at all"
            .into(),
        subtitle: "Win rate of the row against the column".into(),
        caption: "95 % intervals over 100 blocks. piste, seed 11.".into(),
    }
}

fn names(count: usize) -> Vec<String> {
    (0..count).map(|i| if i == 1 { LONG.into() } else { format!("entrant {i} <&> \"{i}\"") }).collect()
}

fn rates(count: usize) -> Drawing {
    let row = |(i, name): (usize, String)| RatesRow {
        name,
        rate: estimate(i as f64 / count as f64),
        record: [i as u64, 7, 1_000_000],
    };
    Rates { words: words(), rows: names(count).into_iter().enumerate().map(row).collect() }.draw()
}

fn matrix(count: usize, of: MatrixOf) -> Drawing {
    let rate = |row: usize, column: usize| (row as f64 + 0.5) / (row + column + 1) as f64;
    let less = if of == MatrixOf::Rates { 0.0 } else { 0.5 };
    let cell = |row: usize, column: usize| {
        (row != column).then(|| Estimate {
            value: rate(row, column) - less,
            low: rate(row, column) - less - 0.06,
            high: rate(row, column) - less + 0.06,
        })
    };
    let cells = (0..count).map(|row| (0..count).map(|column| cell(row, column)).collect()).collect();
    Matrix { words: words(), of, names: names(count), cells }.draw()
}

fn rating(value: f64) -> Estimate {
    Estimate { value, low: value - 35.0, high: value + 35.0 }
}

fn forest(count: usize) -> Drawing {
    let row = |(i, name): (usize, String)| ForestRow {
        name,
        rating: rating(900.0 - 37.0 * i as f64),
        points: "61.3 %".into(),
        clear: i % 2 == 0,
    };
    Forest { words: words(), rows: names(count).into_iter().enumerate().map(row).collect() }.draw()
}

fn rounds(count: usize, looks: usize) -> Drawing {
    let line = |(i, name): (usize, String)| RoundsLine {
        name,
        points: (1..=looks).map(|round| (round, rating(200.0 - 30.0 * i as f64 / round as f64))).collect(),
    };
    Rounds { words: words(), lines: names(count).into_iter().enumerate().map(line).collect() }.draw()
}

fn learning(searches: usize, repetitions: usize, looks: usize, is_share: bool) -> Drawing {
    let value = |i: usize, number: usize, look: usize| 0.9 - 0.8 / (1.0 + (look + i + number) as f64);
    let search = |(i, name): (usize, String)| LearningSearch {
        name,
        repetitions: (0..repetitions)
            .map(|number| (0..looks).map(|look| (500.0 * (look + 1) as f64, value(i, number, look))).collect())
            .collect(),
        proved: (i % 2 == 0).then_some(Estimate { value: 0.7, low: 0.6, high: 0.8 }),
        proved_word: "proved",
    };
    Learning {
        words: words(),
        spent: "Matches of a repetition".into(),
        figure: "Win rate".into(),
        is_share,
        target: is_share.then_some(0.8),
        searches: names(searches).into_iter().enumerate().map(search).collect(),
    }
    .draw()
}

fn traces(panels: usize, repetitions: usize, words_of: usize) -> Drawing {
    let points =
        |number: usize| (1..30).map(|look| (700.0 * f64::from(look), f64::from(look) * number as f64)).collect();
    let panel = |label: String| TracesPanel {
        label,
        repetitions: (0..repetitions).map(points).collect(),
        range: (words_of > 0).then_some((0.0, words_of as f64)),
        is_share: false,
        names: names(words_of),
    };
    Traces { words: self::words(), spent: "Matches".into(), panels: names(panels).into_iter().map(panel).collect() }
        .draw()
}

fn paths(ways: usize, reach: f64) -> Drawing {
    let way = |number: usize| (0..60).map(|step| [f64::from(step) * reach, number as f64 * reach]).collect();
    Paths {
        words: words(),
        window: [[0.0, -10.0], [100.0, 40.0]],
        level: vec![
            PathsShape::Line { from: [10.0, 0.0], to: [90.0, 0.0] },
            PathsShape::Area { low: [20.0, 10.0], high: [30.0, 20.0] },
            PathsShape::Circle { centre: [80.0, 20.0], radius: 8.0 },
            PathsShape::Text { at: [80.0, 20.0], text: "1".into() },
        ],
        name: "the champion".into(),
        ways: (0..ways).map(way).collect(),
        others: "the last generation".into(),
        visits: (0..ways).flat_map(way).collect(),
    }
    .draw()
}

fn running(blocks: u64, even: f64, clear: bool) -> Drawing {
    let look = |block: u64| {
        let margin = (1.5 / (block as f64).sqrt()).min(0.5);
        (block, Estimate { value: even + 0.04, low: even + 0.04 - margin, high: even + 0.04 + margin })
    };
    Running {
        words: words(),
        figure: "Win rate".into(),
        looks: (1..=blocks).map(look).collect(),
        even,
        equal_within: (blocks > 50).then_some(0.03),
        clear: clear.then(|| (blocks, "clear after these blocks: better".into())),
    }
    .draw()
}

fn response(shares: &[f64], target: Option<f64>, answers: &[f64]) -> Drawing {
    let points: Vec<ResponsePoint> = shares
        .iter()
        .enumerate()
        .map(|(i, &share)| ResponsePoint { x: i as f64, label: None, rate: estimate(share) })
        .collect();
    let band = points.iter().map(|point| (point.x, point.rate)).collect();
    let answer =
        |&value: &f64| Answer { value, name: format!("skill {value}"), interval: "interval beyond to beyond".into() };
    let answers = answers.iter().map(answer).collect();
    Response { words: words(), knob: "house.skill".into(), points, band, target, answers }.draw()
}

fn surface(across: usize, up: usize) -> Drawing {
    let cells =
        (0..up).map(|i| (0..across).map(|j| Some(estimate((i + j) as f64 / (up + across) as f64))).collect()).collect();
    Surface {
        of: MatrixOf::Rates,
        words: words(),
        across: ("house.aggression".into(), (0..across).map(|i| format!("{}", 0.123_456 * i as f64)).collect()),
        up: (LONG.into(), (0..up).map(|i| format!("word {i}")).collect()),
        cells,
        target: Some(0.5),
    }
    .draw()
}

fn distribution(groups: usize, bins: usize, means: &[f64]) -> Drawing {
    let group = |i: usize| Group {
        name: names(groups)[i].clone(),
        counts: (0..bins).map(|bin| (bin * (i + 1) % 7) as u64).collect(),
        mean: means.get(i).map(|&value| Estimate { value, low: value - 0.1, high: value + 0.1 }),
    };
    Distribution {
        words: words(),
        label: "Score".into(),
        edges: (0..=bins).map(|i| i as f64 - 0.5).collect(),
        whole: true,
        groups: (0..groups).map(group).collect(),
    }
    .draw()
}

fn measures(panels: usize, marks: usize, knob: Option<&str>) -> Drawing {
    let mark = |i: usize| PanelMark {
        name: names(marks)[i].clone(),
        x: i as f64,
        estimate: estimate(i as f64 / marks as f64),
    };
    let panel = |_| Panel { label: LONG.into(), marks: (0..marks).map(mark).collect(), knob: knob.map(str::to_string) };
    Measures { words: words(), panels: (0..panels).map(panel).collect() }.draw()
}

fn options(values: &[Option<f64>], share: Option<f64>) -> Drawing {
    let row = |(i, &value): (usize, &Option<f64>)| OptionRow {
        name: if i == 1 { LONG.into() } else { format!("pit {i}") },
        value,
        bound: i == 2,
        share,
        chosen: i == 0,
        line: if i == 1 { LONG.into() } else { "3 6 2 1".into() },
    };
    OptionValues { words: words(), rows: values.iter().enumerate().map(row).collect() }.draw()
}

fn cost(of: CostOf, costs: &[f64], joined: bool, frame_us: Option<f64>) -> Drawing {
    let mark = |(i, &cost): (usize, &f64)| CostMark {
        name: if i == 1 { LONG.into() } else { format!("depth {i}") },
        rate: estimate(i as f64 / costs.len() as f64),
        cost: (cost > 0.0).then_some(cost),
        most: (i % 2 == 0).then_some(cost * 8.0),
    };
    let marks = costs.iter().enumerate().map(mark).collect();
    Cost { words: words(), strength: Strength::WinRate, of, marks, joined, frame_us }.draw()
}

/// Every figure with a name, ordinary and awkward.
fn all() -> Vec<(&'static str, Drawing)> {
    vec![
        ("one rate", rates(1)),
        ("five rates", rates(5)),
        ("sixty rates", rates(60)),
        ("matrix of two", matrix(2, MatrixOf::Rates)),
        ("matrix of six", matrix(6, MatrixOf::Rates)),
        ("matrix of sixty-four", matrix(64, MatrixOf::Rates)),
        ("residuals of five", matrix(5, MatrixOf::Residuals)),
        ("residuals of forty", matrix(40, MatrixOf::Residuals)),
        ("one rating", forest(1)),
        ("five ratings", forest(5)),
        ("two hundred ratings", forest(200)),
        ("two rounds of two", rounds(2, 2)),
        ("nine rounds of fifty", rounds(50, 9)),
        ("no rounds", rounds(3, 0)),
        ("one search of one repetition", learning(1, 1, 12, true)),
        ("nine searches of ten repetitions", learning(9, 10, 40, false)),
        ("searches that were never looked at", learning(2, 3, 0, true)),
        ("a search that was looked at once", learning(1, 3, 1, false)),
        ("one trace", traces(1, 3, 0)),
        ("four traces between words", traces(4, 2, 5)),
        ("forty traces of nothing", traces(40, 0, 0)),
        ("five ways", paths(5, 2.0)),
        ("ways far beyond the level", paths(9, 1e4)),
        ("nobody went anywhere", paths(0, 1.0)),
        ("one look", running(1, 0.5, false)),
        ("a comparison that became clear", running(400, 0.5, true)),
        ("a difference that did not", running(3000, 0.0, false)),
        ("nothing looked at", running(0, 0.5, false)),
        ("falling curve, answer at the left end", response(&[0.9, 0.6, 0.2, 0.05], Some(0.9), &[0.0])),
        ("rising curve, answer at the right end", response(&[0.0, 0.3, 0.7, 1.0], Some(0.99), &[3.0])),
        ("a hump with an answer on either side", response(&[0.1, 0.8, 0.8, 0.1], Some(0.5), &[0.6, 2.4])),
        ("two points without a curve", response(&[0.5, 0.5], None, &[])),
        ("target out of reach", response(&[0.1, 0.1, 0.2], Some(0.95), &[])),
        ("surface of two by two", surface(2, 2)),
        ("surface of thirty by forty", surface(30, 40)),
        ("scores", distribution(2, 6, &[0.0, 5.4])),
        ("twelve groups of many bins", distribution(12, 32, &[])),
        ("empty groups", distribution(1, 1, &[])),
        ("measures by entrant", measures(9, 5, None)),
        ("measures of sixty entrants", measures(4, 60, None)),
        ("measures over a knob", measures(9, 11, Some("house.skill"))),
        ("one mark", measures(1, 1, Some("house.skill"))),
        ("no panels", measures(0, 1, None)),
        ("options on both sides of nothing", options(&[Some(3.2), Some(-0.9), Some(-3.9), None], Some(0.3))),
        ("thirty equal options", options(&[Some(0.5); 30], None)),
        ("options that all lose", options(&[Some(-1.0), Some(-2e6)], Some(1.0))),
        ("no option looked at", options(&[None, None], None)),
        ("strength against cost", cost(CostOf::Time, &[0.1, 4.0, 90.0, 2e5, 3e6], false, Some(16_700.0))),
        ("many grades at one time", cost(CostOf::Time, &[100.0; 20], true, None)),
        ("one quick agent in a long frame", cost(CostOf::Time, &[1e-3], false, Some(1e9))),
        ("strength against states", cost(CostOf::States, &[0.0, 4.0, 135.0, 3_083.0, 2e6], false, None)),
        ("nobody searches", cost(CostOf::States, &[0.0, 0.0], false, None)),
        ("nobody timed", cost(CostOf::Time, &[], false, None)),
    ]
}

#[test]
fn nothing_leaves_the_picture() {
    let mut base = fontdb::Database::new();
    for file in ["inkpot-sans-400.otf", "inkpot-sans-600.otf"] {
        base.load_font_data(std::fs::read(format!("{}/fonts/{file}", env!("CARGO_MANIFEST_DIR"))).unwrap());
    }
    let options = Options { fontdb: Arc::new(base), ..Options::default() };
    for (name, drawing) in all() {
        let tree = Tree::from_str(drawing.svg(), &options).unwrap();
        let (size, drawn) = (tree.size(), tree.root().abs_stroke_bounding_box());
        // Only a large matrix is wider: its cells would be too narrow to read.
        assert!(size.width() == 1280.0 || name.contains("sixty-four") || name.contains("forty"), "{name}");
        assert!(size.height() >= 800.0, "{name}");
        assert!(drawn.left() >= -2.0 && drawn.right() <= size.width() + 2.0, "{name}: {drawn:?}");
        assert!(drawn.top() >= -2.0 && drawn.bottom() <= size.height() + 2.0, "{name}: {drawn:?}");
    }
}

#[test]
fn the_same_data_give_the_same_bytes() {
    for ((name, first), (_, second)) in all().into_iter().zip(all()) {
        assert_eq!(first.svg(), second.svg(), "{name}");
    }
}

#[test]
fn png_has_the_pixels_asked_for() {
    let png = rates(5).png(0.5).unwrap();
    let number = |at: usize| u32::from_be_bytes(png[at..at + 4].try_into().unwrap());
    assert_eq!((&png[1..4], number(16), number(20)), (b"PNG".as_slice(), 640, 400));
    let mut reader = png::Decoder::new(std::io::Cursor::new(&png)).read_info().unwrap();
    let mut colours = vec![0; reader.output_buffer_size().unwrap()];
    reader.next_frame(&mut colours).unwrap();
    assert_eq!(colours[..3], [255; 3], "the ground of a figure");
    assert!(colours.chunks(3).any(|colour| colour.iter().all(|part| *part < 60)), "its title is dark");
}

#[test]
fn awkward_names_are_escaped_cut_and_never_boxes() {
    let drawing = rates(3);
    assert!(drawing.svg().contains("&lt;&amp;&gt;"), "markup in a name is escaped");
    assert!(drawing.svg().contains('…') && !drawing.svg().contains(LONG), "a long name is cut");
    let mut strange = Rates { words: words(), rows: Vec::new() };
    strange.rows.push(RatesRow { name: "千鳥 Ö".into(), rate: estimate(0.5), record: [1, 0, 1] });
    assert!(strange.draw().svg().contains("?? Ö"), "a character without a glyph is shown as such");
}

#[test]
fn cells_of_a_large_matrix_stay_large_enough_to_read() {
    for count in [30, 64, 120] {
        let svg = matrix(count, MatrixOf::Rates).svg().to_string();
        let view = svg.split("viewBox=\"0 0 ").nth(1).and_then(|rest| rest.split('"').next()).unwrap().to_string();
        let size: Vec<f64> = view.split(' ').map(|part| part.parse::<f64>().unwrap() / 10.0).collect();
        assert!(size[0] >= 27.0 * count as f64 && size[1] >= 21.0 * count as f64, "{count}: {size:?}");
    }
}

#[test]
fn what_cannot_be_told_from_one_half_is_pale() {
    let one = |value: f64| {
        let row = RatesRow { name: "a".into(), rate: estimate(value), record: [1, 0, 1] };
        Rates { words: words(), rows: vec![row] }.draw().svg().to_string()
    };
    assert!(one(0.8).contains("#28348F") && !one(0.52).contains("#28348F"));
}
