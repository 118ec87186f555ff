//! The replay page: matches that can be played, stepped through and looked into, in one HTML file that needs nothing
//! beside itself. Plain data in, text out.
//!
//! What a match was is packed into the page as JSON; the script unpacks and draws it. Without the script the page still
//! tells the course of the scores.

mod film;
mod reel;

use minijinja::{Value, context};
use serde::Serialize;

use self::film::Detail;
pub use self::film::{About, AboutSeat, End, Film, Frame, FrameSeat, Mind, MindOption};
use crate::page::{fonts, rendered};

const TEMPLATE: &str = include_str!("page.html");
const STYLE: &str = include_str!("style.css");
const SCRIPT: &str = include_str!("script.js");

/// A page is no larger than this (bytes), as far as leaving out pictures can help.
const LARGEST: usize = 5_000_000;

/// From all there is to the least that is still worth a look.
const DETAILS: [Detail; 8] = [
    Detail { pictures: 1, minds: 1, options: 12 },
    Detail { pictures: 1, minds: 1, options: 6 },
    Detail { pictures: 2, minds: 2, options: 6 },
    Detail { pictures: 3, minds: 4, options: 5 },
    Detail { pictures: 5, minds: 8, options: 5 },
    Detail { pictures: 10, minds: 20, options: 4 },
    Detail { pictures: 30, minds: 60, options: 3 },
    Detail { pictures: 120, minds: 300, options: 3 },
];

/// A page of one match, or of several side by side.
#[derive(Clone, Debug)]
pub struct ReplayPage {
    /// Its title.
    pub title: String,
    /// A line under it.
    pub subtitle: String,
    /// The program that made it.
    pub made_by: String,
    /// The matches.
    pub films: Vec<Film>,
}

/// A match as the template sees it.
#[derive(Serialize)]
struct MatchContext<'a> {
    title: &'a str,
    scores: Vec<(String, String)>,
    data: String,
}

impl ReplayPage {
    /// The page as HTML, with as much detail as fits into 5 MB. Errs only when the template does not fit the
    /// data.
    pub fn html(&self) -> Result<String, String> {
        let mut html = String::new();
        for detail in DETAILS {
            html = self.html_in(detail)?;
            if html.len() <= LARGEST {
                break;
            }
        }
        Ok(html)
    }

    fn html_in(&self, detail: Detail) -> Result<String, String> {
        let films = self.films.iter().map(|film| {
            Value::from_serialize(MatchContext {
                title: film.title(),
                scores: film.score_texts(),
                data: film.packed(detail),
            })
        });
        let films: Vec<_> = films.collect();
        rendered(
            TEMPLATE,
            context! {
                title => self.title,
                subtitle => self.subtitle,
                made_by => self.made_by,
                films => films,
                style => Value::from_safe_string(fonts() + STYLE),
                script => Value::from_safe_string(SCRIPT.to_string()),
            },
        )
    }
}
