//! Where marks stand: at their values, in order, under texts that do not run into one another.

use crate::ordinary::{aim, birds, distribution, forest, front, ladder, ordinary, rates, response};
use inkpot_figures::Drawing;
use resvg::usvg::{self, Node, Tree, fontdb};
use roxmltree::Document;

/// The colour of what is clear.
const INDIGO: &str = "#28348F";

#[derive(Clone, Debug, PartialEq)]
struct Disc {
    x: f64,
    y: f64,
    radius: f64,
    fill: String,
}

fn number(node: &roxmltree::Node, name: &str) -> f64 {
    node.attribute(name).and_then(|text| text.parse().ok()).unwrap_or(f64::NAN)
}

fn discs(drawing: &Drawing) -> Vec<Disc> {
    let document = Document::parse(drawing.svg()).expect("a drawing is XML");
    let circles = document.descendants().filter(|node| node.has_tag_name("circle"));
    let disc = |node: roxmltree::Node| Disc {
        x: number(&node, "cx"),
        y: number(&node, "cy"),
        radius: number(&node, "r"),
        fill: node.attribute("fill").unwrap_or_default().into(),
    };
    circles.map(disc).collect()
}

/// Filled areas as their corners.
fn areas(drawing: &Drawing) -> Vec<Vec<(f64, f64)>> {
    let document = Document::parse(drawing.svg()).expect("a drawing is XML");
    let polygons = document.descendants().filter(|node| node.has_tag_name("polygon"));
    let corners = |node: roxmltree::Node| {
        let pairs = node.attribute("points").unwrap_or_default().split_whitespace();
        pairs
            .map(|pair| pair.split_once(',').expect("x,y"))
            .map(|(x, y)| (x.parse().unwrap(), y.parse().unwrap()))
            .collect()
    };
    polygons.map(corners).collect()
}

fn texts(drawing: &Drawing) -> Vec<String> {
    let document = Document::parse(drawing.svg()).expect("a drawing is XML");
    let texts = document.descendants().filter(|node| node.has_tag_name("text"));
    texts.map(|node| node.text().unwrap_or_default().trim().to_string()).collect()
}

/// Boxes around all texts, as they are rendered.
fn boxes(node: &usvg::Group, found: &mut Vec<(String, usvg::Rect)>) {
    for child in node.children() {
        match child {
            Node::Group(inner) => boxes(inner, found),
            Node::Text(text) => {
                let said = text.chunks().iter().map(|chunk| chunk.text().trim()).collect();
                found.push((said, text.abs_bounding_box()));
            }
            _ => {}
        }
    }
}

#[test]
fn texts_of_ordinary_figures_do_not_run_into_one_another() {
    let mut base = fontdb::Database::new();
    for file in ["inkpot-sans-400.otf", "inkpot-sans-600.otf"] {
        base.load_font_data(std::fs::read(format!("{}/fonts/{file}", env!("CARGO_MANIFEST_DIR"))).unwrap());
    }
    let options = usvg::Options { fontdb: base.into(), ..usvg::Options::default() };
    for (name, drawing) in ordinary() {
        let tree = Tree::from_str(drawing.svg(), &options).expect("a drawing is SVG");
        let mut found = Vec::new();
        boxes(tree.root(), &mut found);
        assert!(found.len() > 5, "{name} has texts");
        for (i, (text, a)) in found.iter().enumerate() {
            assert!(a.width() > 3.0 && a.height() > 3.0, "{name}: `{text}` has a size");
            for (other, b) in &found[i + 1..] {
                let across = a.right().min(b.right()) - a.left().max(b.left());
                let down = a.bottom().min(b.bottom()) - a.top().max(b.top());
                assert!(across < 1.0 || down < 1.0, "{name}: `{text}` and `{other}` overlap by {across} x {down}");
            }
        }
    }
}

#[test]
fn the_words_of_every_figure_stand_in_it() {
    for (name, drawing) in ordinary() {
        let texts = texts(&drawing);
        for word in ["Heron leads", "Win rate"] {
            assert!(texts.iter().any(|text| text == word), "{name}: {texts:?}");
        }
        assert!(texts.iter().any(|text| text.starts_with("95 % intervals.")), "{name}: {texts:?}");
    }
}

#[test]
fn rates_stand_in_order_and_as_far_right_as_they_are_high() {
    let drawing = rates(&birds());
    let discs = discs(&drawing);
    assert_eq!(discs.len(), 4);
    assert!(discs.windows(2).all(|pair| pair[0].y < pair[1].y), "from the top down");
    let along = |disc: &Disc| (disc.x - discs[3].x) / (discs[0].x - discs[3].x);
    for (disc, (_, rate, _)) in discs.iter().zip(birds()) {
        assert!((along(disc) - (rate - 0.1) / 0.7).abs() < 0.002, "{disc:?} for {rate}");
    }
    let clear: Vec<bool> = discs.iter().map(|disc| disc.fill == INDIGO).collect();
    assert_eq!(clear, [true, true, false, true], "what holds one half is pale");
}

#[test]
fn what_is_pointed_at_tells_its_figures() {
    let drawing = rates(&birds());
    let texts: Vec<(&str, &str)> = drawing.spots().iter().map(|spot| (spot.key.as_str(), spot.text.as_str())).collect();
    assert_eq!(texts[0], ("heron", "heron: 80.0 %, interval 75.0–85.0; 55-3-42"));
    assert_eq!(texts.len(), 4);
    for (name, drawing) in ordinary() {
        for spot in drawing.spots() {
            assert!(spot.width >= 6.0 && spot.height >= 6.0, "{name}: {spot:?} is too small to point at");
            assert!(spot.left >= 0.0 && spot.left + spot.width <= 1280.0, "{name}: {spot:?}");
            assert!(!spot.text.is_empty(), "{name}: {spot:?}");
        }
    }
}

#[test]
fn points_of_a_response_stand_at_knob_and_rate() {
    let drawing = response(None);
    let discs: Vec<Disc> = discs(&drawing).into_iter().filter(|disc| disc.fill == INDIGO).collect();
    assert_eq!(discs.len(), 4);
    let steps: Vec<f64> = discs.windows(2).map(|pair| pair[1].x - pair[0].x).collect();
    assert!(steps.iter().all(|step| (step - steps[0]).abs() <= 1.0 && *step > 0.0), "{steps:?}");
    let down = |i: usize| discs[i].y - discs[0].y;
    assert!((down(1) / down(3) - 0.2 / 0.8).abs() < 0.005 && (down(2) / down(3) - 0.5 / 0.8).abs() < 0.005);
}

#[test]
fn the_answer_of_a_response_is_told_where_it_stands() {
    let (without, with) = (response(None), response(Some(0.6)));
    assert!(!texts(&without).iter().any(|text| text.contains("skill 0.3")));
    assert!(texts(&with).iter().any(|text| text.contains("skill 0.3")));
    assert!(texts(&with).iter().any(|text| text.contains("interval 0.28 to 0.32")));
}

#[test]
fn ratings_stand_as_far_apart_as_they_are() {
    let discs = discs(&forest());
    let along = (discs[1].x - discs[2].x) / (discs[0].x - discs[2].x);
    assert!((along - 140.0 / 250.0).abs() < 0.002, "{along}");
    let clear: Vec<bool> = discs.iter().map(|disc| disc.fill == INDIGO).collect();
    assert_eq!(clear, [true, false, true]);
}

#[test]
fn what_is_wanted_of_a_rung_is_shaded_around_what_meets_it() {
    let drawing = ladder();
    let (discs, shades) = (discs(&drawing), areas(&drawing));
    assert_eq!((discs.len(), shades.len()), (3, 3));
    let ends = |corners: &[(f64, f64)]| {
        let xs = || corners.iter().map(|(x, _)| *x);
        (xs().fold(f64::INFINITY, f64::min), xs().fold(f64::NEG_INFINITY, f64::max))
    };
    let inside: Vec<bool> = discs
        .iter()
        .zip(&shades)
        .map(|(disc, shade)| {
            let (left, right) = ends(shade);
            (left..=right).contains(&disc.x)
        })
        .collect();
    assert_eq!(inside, [true, false, true]);
    // A shade of a tenth of the range beside one of the same width, and an open one to the end.
    let width = |i: usize| ends(&shades[i]).1 - ends(&shades[i]).0;
    assert!((width(0) - width(1)).abs() <= 1.0 && width(2) > 4.0 * width(0), "{} {} {}", width(0), width(1), width(2));
    assert_eq!(discs.iter().map(|disc| disc.fill == INDIGO).collect::<Vec<_>>(), inside, "what is not met is pale");
}

#[test]
fn probes_with_more_matches_have_larger_marks() {
    let discs = discs(&aim());
    let large = discs.iter().map(|disc| disc.radius).fold(0.0, f64::max);
    let tried: Vec<&Disc> = discs.iter().take(3).collect();
    assert!(tried[1].radius > tried[0].radius && (tried[0].radius - tried[2].radius).abs() < 0.5);
    assert!(tried[1].radius <= large);
    assert!(tried[0].x < tried[1].x && tried[1].x < tried[2].x, "from low to high knob");
    assert!(tried[0].y < tried[1].y && tried[1].y < tried[2].y, "a falling rate");
}

#[test]
fn the_edge_of_a_front_is_what_no_other_probe_beats() {
    // (0.5, 20) meets the win rate, (0.7, 35) the length, (0.6, 25) lies between; (0.8, 22) is beaten by it.
    assert_eq!(front().edge(), [(0.5, 20.0), (0.6, 25.0), (0.7, 35.0)]);
    let drawing = front().draw();
    let discs = discs(&drawing);
    let chosen = discs.last().expect("the chosen point is drawn last");
    assert_eq!((discs.len(), chosen.fill.as_str()), (5, INDIGO));
    assert!(texts(&drawing).contains(&"chosen, proved".to_string()));
}

#[test]
fn bars_of_a_distribution_are_as_high_as_their_share() {
    let bars = areas(&distribution());
    let height = |corners: &[(f64, f64)]| {
        let ys = || corners.iter().map(|(_, y)| *y);
        ys().fold(f64::NEG_INFINITY, f64::max) - ys().fold(f64::INFINITY, f64::min)
    };
    let heights: Vec<f64> = bars.iter().map(|bar| height(bar)).collect();
    assert_eq!(heights.len(), 6, "three bins in two groups");
    for (i, share) in [(0, 1.0), (1, 2.0), (2, 7.0), (3, 7.0), (4, 2.0), (5, 1.0)] {
        assert!((heights[i] / heights[0] - share).abs() < 0.06, "{heights:?}");
    }
}
