//! The view of a search: repetitions, population, best candidate, rate, and time left.

use std::time::{Duration, Instant};

use inkpot_core::GameEntry;
use inkpot_figures::quartiles;
use inkpot_lab::{SearchRound, Watched};
use ratatui::Frame;
use ratatui::layout::{Constraint, Layout, Rect};
use ratatui::style::{Color, Modifier, Style};
use ratatui::symbols::Marker;
use ratatui::text::{Line, Span};
use ratatui::widgets::{Axis, Block, Chart, Dataset, GraphType, Paragraph};

use super::picture::Picture;
use crate::show::format::{bar, count, duration, percent, round_percent, significant};
use crate::terminal;

/// Time from one drawing to the next.
pub(super) const FRAME: Duration = Duration::from_millis(100);
/// The narrowest terminal in which two things stand side by side.
const WIDE: u16 = 90;
/// Cells of the gauge, where there is room.
const GAUGE: usize = 24;
/// Room for the right column.
const ASIDE: u16 = 34;

type Points = Vec<(f64, f64)>;

/// The state of the search.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum State {
    Searching,
    Paused,
    Stopping,
}

/// The view of a search.
pub(super) struct View<'a> {
    title: &'a str,
    game: &'a dyn GameEntry,
    color: bool,
    marker: Marker,
    began: Instant,
    /// Matches that were played before it was watched.
    before: Option<u64>,
    round: Option<SearchRound>,
    watched: Watched,
    state: State,
    /// The match that is shown in place of the curve.
    picture: Option<Picture>,
    /// Whether a match is to be shown.
    pictured: bool,
}

impl<'a> View<'a> {
    pub(super) fn new(title: &'a str, game: &'a dyn GameEntry, color: bool) -> Self {
        Self {
            title,
            game,
            color,
            marker: terminal::marker(),
            began: Instant::now(),
            before: None,
            round: None,
            watched: Watched::default(),
            state: State::Searching,
            picture: None,
            pictured: false,
        }
    }

    /// Takes the progress of the search.
    pub(super) fn hear(&mut self, round: Option<SearchRound>, watched: Option<Watched>, state: State) {
        self.state = state;
        if let Some(round) = round {
            self.before.get_or_insert(round.spent);
            self.round = Some(round);
        }
        if let Some(watched) = watched {
            self.watched = watched;
        }
        if !self.pictured {
            return;
        }
        let goes_on = self.picture.as_mut().is_some_and(|picture| picture.step(FRAME.as_secs_f64()));
        if !goes_on {
            self.picture =
                self.watched.latest.as_ref().and_then(|(setting, block)| Picture::of(self.game, setting, *block));
        }
    }

    /// Shows a match, or the curve again.
    pub(super) fn picture(&mut self) {
        self.pictured = !self.pictured;
        self.picture = None;
    }

    pub(super) fn draw(&self, frame: &mut Frame) {
        let rows = [Constraint::Length(1), Constraint::Min(8), Constraint::Length(1), Constraint::Length(1)];
        let [head, middle, gauge, keys] = Layout::vertical(rows).areas(frame.area());
        self.head(frame, head);
        if middle.width >= WIDE {
            let [main, aside] = Layout::horizontal([Constraint::Min(40), Constraint::Length(ASIDE)]).areas(middle);
            self.main(frame, main);
            let [champion, spread] =
                Layout::vertical([Constraint::Length(self.watched.champion.len() as u16 + 2), Constraint::Min(6)])
                    .areas(aside);
            self.champion(frame, champion);
            self.spread(frame, spread);
        } else {
            self.main(frame, middle);
        }
        self.gauge(frame, gauge);
        frame.render_widget(Paragraph::new(self.keys()), keys);
    }

    fn style(&self, color: Color) -> Style {
        if self.color { Style::new().fg(color) } else { Style::new() }
    }

    /// A line.
    fn set<'p>(&self, points: &'p Points, color: Color) -> Dataset<'p> {
        Dataset::default().marker(self.marker).graph_type(GraphType::Line).style(self.style(color)).data(points)
    }

    fn number_text(&self, value: f64) -> String {
        if self.watched.is_share { round_percent(value) } else { significant(value, 3) }
    }

    fn head(&self, frame: &mut Frame, area: Rect) {
        let state = match self.state {
            State::Searching => "searching",
            State::Paused => "paused",
            State::Stopping => "stopping",
        };
        let choice = self.round.as_ref().map_or("", |round| round.choice.as_str());
        let bold = Style::new().add_modifier(Modifier::BOLD);
        let line = vec![Span::styled(self.title, bold), Span::raw(format!("  {state}  {choice}"))];
        frame.render_widget(Paragraph::new(Line::from(line)), area);
    }

    fn keys(&self) -> String {
        let pause = if self.state == State::Paused { "p continues" } else { "p pauses" };
        let shown = if self.pictured { "m shows the curve" } else { "m plays the latest match of the best" };
        format!("{pause}   s stops and saves   {shown}")
    }

    /// The curve, or a match.
    fn main(&self, frame: &mut Frame, area: Rect) {
        match (&self.picture, self.pictured) {
            (Some(picture), true) => picture.draw(frame, area, self.color, self.marker),
            (None, true) => {
                let text = "The best has played no match on the yardstick yet.";
                frame.render_widget(Paragraph::new(text).block(Block::bordered()), area);
            }
            _ => self.curve(frame, area),
        }
    }

    /// Each repetition, their median and the quartiles.
    fn curve(&self, frame: &mut Frame, area: Rect) {
        let looks = &self.watched.looks;
        let band = quartiles(looks);
        let line = |which: usize| -> Points { band.iter().map(|(spent, values)| (*spent, values[which])).collect() };
        let [low, median, high] = [0, 1, 2].map(line);
        let points = || looks.iter().flatten();
        let most = points().map(|point| point.0).fold(1.0, f64::max);
        let values = points().map(|point| point.1).chain(self.watched.target);
        let (least, greatest) = if self.watched.is_share { (0.0, 1.0) } else { ends(values) };
        let target = self.watched.target.map(|target| vec![(0.0, target), (most, target)]);
        let mut sets = Vec::new();
        sets.extend(target.as_ref().map(|points| self.set(points, Color::Yellow)));
        sets.extend(looks.iter().map(|points| self.set(points, Color::DarkGray)));
        sets.extend([&low, &high].map(|points| self.set(points, Color::Cyan)));
        sets.push(self.set(&median, Color::LightBlue));
        let labels = [least, f64::midpoint(least, greatest), greatest].map(|value| self.number_text(value));
        let target =
            self.watched.target.map_or_else(String::new, |target| format!(", target {}", self.number_text(target)));
        let title = format!(
            " {} on the yardstick: {} repetitions, median and quartiles{target} ",
            self.watched.figure,
            looks.len()
        );
        let chart = Chart::new(sets)
            .block(Block::bordered().title(title))
            .x_axis(Axis::default().bounds([0.0, most]).labels(["0".to_string(), self.spent(most)]))
            .y_axis(Axis::default().bounds([least, greatest]).labels(labels));
        frame.render_widget(chart, area);
    }

    /// Writes this share of the search's budget.
    fn spent(&self, most: f64) -> String {
        format!("{} {}", count(most as u64), self.round.as_ref().map_or("matches", |round| round.unit))
    }

    /// Draws the best candidate.
    fn champion(&self, frame: &mut Frame, area: Rect) {
        let widest = self.watched.champion.iter().map(|(name, _)| name.len()).max().unwrap_or(0).min(20);
        let share = |name: &str| self.watched.is_share && name == self.watched.figure;
        let row = |name: &str, value: f64| match value.is_finite() {
            false => "none".to_string(),
            true if share(name) => percent(value),
            true => significant(value, 4),
        };
        let line = |(name, value): &(String, f64)| {
            let short: String = name.chars().take(widest).collect();
            format!(" {short:widest$}  {:>8}", row(name, *value))
        };
        let lines: Vec<Line> = self.watched.champion.iter().map(|champion| Line::from(line(champion))).collect();
        frame.render_widget(Paragraph::new(lines).block(Block::bordered().title(" the best on the yardstick ")), area);
    }

    /// Draws the population's fitness: the best, the median and the quartiles.
    fn spread(&self, frame: &mut Frame, area: Rect) {
        let spread = &self.watched.spread;
        let lines = [0, 1, 2, 3]
            .map(|which: usize| -> Points { spread.iter().map(|(spent, values)| (*spent, values[which])).collect() });
        let most = spread.last().map_or(1.0, |last| last.0);
        let (least, greatest) = ends(spread.iter().flat_map(|pair| pair.1));
        let colors = [Color::LightBlue, Color::Cyan, Color::Reset, Color::Cyan];
        let sets = lines.iter().zip(colors).map(|(points, color)| self.set(points, color));
        let chart = Chart::new(sets.collect())
            .block(Block::bordered().title(format!(" {}: best and quartiles ", self.watched.fitness)))
            .x_axis(Axis::default().bounds([0.0, most]).labels(["0".to_string(), self.spent(most)]))
            .y_axis(
                Axis::default().bounds([least, greatest]).labels([significant(least, 3), significant(greatest, 3)]),
            );
        frame.render_widget(chart, area);
    }

    /// Matches so far, their rate and the time left.
    fn gauge(&self, frame: &mut Frame, area: Rect) {
        let Some(round) = &self.round else { return };
        let seconds = self.began.elapsed().as_secs_f64();
        let rate = round.spent.saturating_sub(self.before.unwrap_or(0)) as f64 / seconds.max(1e-3);
        let left = round.most.saturating_sub(round.spent) as f64 / rate;
        let left = if left.is_finite() { format!(", {} left at most", duration(left)) } else { String::new() };
        let text = format!(
            "{} of {} {}, {} a second{left}",
            count(round.spent),
            count(round.most),
            round.unit,
            count(rate.round() as u64)
        );
        let share = (round.spent as f64 / round.most.max(1) as f64).clamp(0.0, 1.0);
        let cells = usize::from(area.width).saturating_sub(text.chars().count() + 1).min(GAUGE);
        let done = Span::styled(format!("{:cells$}", bar(share, cells)), self.style(Color::LightBlue));
        frame.render_widget(Paragraph::new(Line::from(vec![done, Span::raw(format!(" {text}"))])), area);
    }
}

/// The least and the largest, apart.
fn ends(values: impl Iterator<Item = f64>) -> (f64, f64) {
    let (low, high) = values
        .filter(|value| value.is_finite())
        .fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), value| (low.min(value), high.max(value)));
    if low < high {
        (low, high)
    } else if low.is_finite() {
        (low - 0.5, low + 0.5)
    } else {
        (0.0, 1.0)
    }
}

#[cfg(test)]
mod tests {
    use inkpot_lab::{Draft, EntrantDraft, resolve};
    use ratatui::Terminal;
    use ratatui::backend::TestBackend;

    use super::*;

    fn drawn(view: &View, width: u16, height: u16) -> String {
        let mut terminal = Terminal::new(TestBackend::new(width, height)).expect("a terminal in memory");
        terminal.draw(|frame| view.draw(frame)).expect("it is drawn");
        terminal.backend().to_string()
    }

    fn watched() -> Watched {
        let looks = |number: usize| {
            (1..20).map(move |look| (500.0 * f64::from(look), f64::from(look) / (20.0 + number as f64)))
        };
        let spread = |look: i32| {
            let best = -90.0 + 4.0 * f64::from(look);
            (500.0 * f64::from(look), [best, best - 10.0, best - 20.0, best - 25.0])
        };
        Watched {
            fitness: "fitness",
            figure: "finished".into(),
            is_share: true,
            target: Some(0.95),
            looks: (0..3).map(|number| looks(number).collect()).collect(),
            spread: (1..20).map(spread).collect(),
            champion: vec![("finished".into(), 0.9), ("least_left_m".into(), 12.25)],
            latest: None,
        }
    }

    fn round() -> SearchRound {
        SearchRound {
            rounds: 19,
            unit: "matches",
            spent: 9_500,
            most: 48_000,
            choice: "generation 19: best -14.0".into(),
        }
    }

    #[test]
    fn a_search_is_drawn_wide_and_narrow() {
        let registry = inkpot_games::registry();
        let game = registry.game("regatta").expect("a house game");
        let mut view = View::new("evolve windward", game, true);
        insta::assert_snapshot!("nothing_known_yet", drawn(&view, 80, 24));
        view.hear(Some(round()), Some(watched()), State::Searching);
        let timeless = |text: String| {
            // What a second makes of it is left out.
            let rate = |line: &str| line.find(" matches, ").map_or(line.to_string(), |at| line[..at].to_string());
            text.lines().map(rate).collect::<Vec<_>>().join("\n")
        };
        insta::assert_snapshot!("wide", timeless(drawn(&view, 130, 34)));
        view.hear(None, None, State::Paused);
        insta::assert_snapshot!("narrow", timeless(drawn(&view, 80, 24)));
    }

    #[test]
    fn the_latest_match_is_drawn_until_it_is_over() {
        let registry = inkpot_games::registry();
        let game = registry.game("regatta").expect("a house game");
        let draft = Draft {
            game: "regatta".into(),
            entrants: vec![EntrantDraft { agent: "beeline".into(), ..EntrantDraft::default() }],
            ..Draft::default()
        };
        let plan = resolve(&draft.into(), &registry).expect("a match of one boat");
        let setting = plan.setting(&plan.cells[0]);
        let mut view = View::new("evolve reach", game, true);
        view.hear(Some(round()), Some(Watched { latest: Some((setting, 1)), ..watched() }), State::Searching);
        view.picture();
        view.hear(None, None, State::Searching);
        let first = drawn(&view, 80, 24);
        assert!(first.contains("its latest match: 0.0 s"), "{first}");
        for _ in 0..20 {
            view.hear(None, None, State::Searching);
        }
        let later = drawn(&view, 80, 24);
        assert!(!later.contains("its latest match: 0.0 s") && later.contains("its latest match: "), "{later}");
    }
}
