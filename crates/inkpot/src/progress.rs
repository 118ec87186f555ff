//! The progress line: subject, done, rate, remaining, and the figure so far.

use std::time::Duration;

use indicatif::{ProgressBar, ProgressDrawTarget, ProgressStyle};
use inkpot_lab::{Event, SearchRound, StudyPlan};

use crate::desk::Desk;
use crate::outlet;
use crate::show::format::rate;

/// Listens to the events of a study and draws one line on standard error, if that is a terminal.
pub(crate) struct Progress<'a> {
    desk: &'a Desk,
    bar: ProgressBar,
    rotations: u64,
}

impl<'a> Progress<'a> {
    pub(crate) fn new(plan: &StudyPlan, desk: &'a Desk) -> Self {
        let bar = ProgressBar::with_draw_target(
            Some(plan.total_matches()),
            if desk.quiet { ProgressDrawTarget::hidden() } else { ProgressDrawTarget::stderr_with_hz(8) },
        );
        let template = "{prefix}  {bar:24} {human_pos}/{human_len} matches  {per_sec}  {eta} left  {msg}";
        if let Ok(style) = ProgressStyle::with_template(template) {
            bar.set_style(style.with_key("per_sec", per_second).progress_chars("█▉▊▋▌▍▎▏ "));
        }
        bar.set_prefix(plan.kind().name());
        bar.enable_steady_tick(Duration::from_millis(250));
        Self { desk, bar, rotations: plan.matches_a_block() }
    }

    pub(crate) fn hear(&mut self, event: &Event) {
        match event {
            Event::Began { done, .. } => {
                self.bar.set_position(done * self.rotations);
                self.bar.reset_eta();
            }
            Event::SetAside { files } => self.bar.suspend(|| {
                self.desk.say(format!("warning: {} was damaged, and is played again", files.join(", ")));
            }),
            Event::Played { done, so_far } => {
                self.bar.set_position(done * self.rotations);
                if let Some((what, interval)) = so_far {
                    self.bar.set_message(outlet::shown(&format!("{what}: {}", rate(interval)), false).into_owned());
                }
            }
            Event::SummingUp => self.bar.set_message("summing up"),
        }
    }

    pub(crate) fn finish(self) {
        self.bar.finish_and_clear();
    }
}

/// The line of a search: its cost so far, and the present choice.
pub(crate) struct SearchProgress {
    bar: ProgressBar,
}

impl SearchProgress {
    pub(crate) fn new(desk: &Desk) -> Self {
        let bar = ProgressBar::with_draw_target(
            Some(0),
            if desk.quiet { ProgressDrawTarget::hidden() } else { ProgressDrawTarget::stderr_with_hz(8) },
        );
        let template = "search  {bar:24} {human_pos} {prefix}, {human_len} at most  {msg}";
        if let Ok(style) = ProgressStyle::with_template(template) {
            bar.set_style(style.progress_chars("█▉▊▋▌▍▎▏ "));
        }
        bar.enable_steady_tick(Duration::from_millis(250));
        Self { bar }
    }

    pub(crate) fn hear(&mut self, round: &SearchRound) {
        self.bar.set_length(round.most);
        self.bar.set_position(round.spent);
        self.bar.set_prefix(round.unit);
        self.bar.set_message(outlet::shown(&round.choice, false).into_owned());
    }

    pub(crate) fn finish(self) {
        self.bar.finish_and_clear();
    }
}

fn per_second(state: &indicatif::ProgressState, out: &mut dyn std::fmt::Write) {
    let _ = write!(out, "{:.0}/s", state.per_sec());
}
