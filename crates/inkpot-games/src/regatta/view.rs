//! The perception of a boat.

use std::sync::Arc;

use serde::{Serialize, Serializer};

use super::course::Course;
use super::geometry::{Point, length};

/// The view of a boat: the next mark, the wind and its own speed, and rays to the shores. Nothing else.
#[derive(Clone, Debug)]
pub struct View {
    /// The way to the next mark, ahead and to starboard (m).
    pub(super) mark: Point,
    /// The direction from which the wind comes, ahead and to starboard, a unit vector.
    pub(super) wind: Point,
    pub(super) speed: f64,
    pub(super) lookout: Lookout,
}

/// The data for looking along rays, which are followed only on demand.
#[derive(Clone, Debug)]
pub(super) struct Lookout {
    pub(super) course: Arc<Course>,
    pub(super) water: usize,
    pub(super) at: Point,
    pub(super) bow: Point,
}

/// Degrees from the bow, starboard positive.
fn degrees([ahead, starboard]: Point) -> f64 {
    libm::atan2(starboard, ahead).to_degrees()
}

impl View {
    /// Direction of the next mark (degrees from the bow, -180 to 180, starboard positive).
    pub fn mark_deg(&self) -> f64 {
        degrees(self.mark)
    }

    /// Distance of the next mark (m).
    pub fn mark_m(&self) -> f64 {
        length(self.mark)
    }

    /// The direction that the wind comes from (degrees from the bow, -180 to 180, starboard positive).
    pub fn wind_deg(&self) -> f64 {
        degrees(self.wind)
    }

    /// Own speed through the water (m/s).
    pub fn speed(&self) -> f64 {
        self.speed
    }

    /// Calls `seen` with each ray's direction (degrees from the bow, starboard positive) and how far it goes until it
    /// meets a shore (m), at most 40.
    pub fn look(&self, mut report: impl FnMut(f64, f64)) {
        let Lookout { course, water, at, bow } = &self.lookout;
        course.waters[*water].look(*at, *bow, &course.rules.rays, |ray, far| report(course.ray_degrees[ray], far));
    }
}

/// The figures of a view, with the rays all followed.
#[derive(Serialize)]
struct Written {
    mark_deg: f64,
    mark_m: f64,
    wind_deg: f64,
    speed: f64,
    rays_m: Vec<f64>,
}

impl Serialize for View {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut rays_m = Vec::new();
        self.look(|_, far| rays_m.push(far));
        let (mark_deg, mark_m, wind_deg, speed) = (self.mark_deg(), self.mark_m(), self.wind_deg(), self.speed);
        Written { mark_deg, mark_m, wind_deg, speed, rays_m }.serialize(serializer)
    }
}
