//! The state of a piece of work, as it goes to a worker and comes back.

use std::any::Any;
use std::fmt;
use std::sync::Arc;

use serde::de::DeserializeOwned;
use serde::{Deserialize, Deserializer, Serialize, Serializer};

/// The state of a piece of work: of its own type where it stays in this process, as JSON where it has travelled.
#[derive(Clone)]
pub struct State(Form);

#[derive(Clone)]
enum Form {
    Value(Arc<dyn Travels>),
    Text(Arc<str>),
}

/// A type that can be a state.
trait Travels: Any + Send + Sync {
    fn json(&self) -> serde_json::Result<String>;
}

impl<T: Serialize + Any + Send + Sync> Travels for T {
    fn json(&self) -> serde_json::Result<String> {
        serde_json::to_string(self)
    }
}

impl State {
    /// A state that is this.
    pub fn of<T: Serialize + Any + Send + Sync>(value: Arc<T>) -> Self {
        Self(Form::Value(value))
    }

    /// The value. Errs with the reason where it is something else.
    pub fn into_value<T: DeserializeOwned + Any + Send + Sync>(self) -> Result<Arc<T>, String> {
        match self.0 {
            Form::Value(value) => {
                let value: Arc<dyn Any + Send + Sync> = value;
                value.downcast().map_err(|_| "the state is one of other work".into())
            }
            Form::Text(text) => serde_json::from_str(&text)
                .map(Arc::new)
                .map_err(|error| format!("the state is one of other work: {error}")),
        }
    }

    fn json(&self) -> serde_json::Result<String> {
        match &self.0 {
            Form::Value(value) => value.json(),
            Form::Text(text) => Ok(text.as_ref().into()),
        }
    }
}

impl fmt::Debug for State {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match &self.0 {
            Form::Value(_) => f.write_str("a value"),
            Form::Text(text) => write!(f, "{} bytes of text", text.len()),
        }
    }
}

impl Serialize for State {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        self.json().map_err(serde::ser::Error::custom)?.serialize(serializer)
    }
}

impl<'de> Deserialize<'de> for State {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        Ok(Self(Form::Text(String::deserialize(deserializer)?.into())))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_state_is_the_same_value_whether_it_travelled_or_stayed() {
        let counts = vec![3_u64, 1, 4];
        let stayed = State::of(Arc::new(counts.clone()));
        let text = serde_json::to_string(&stayed).unwrap();
        let travelled: State = serde_json::from_str(&text).unwrap();
        assert_eq!(serde_json::to_string(&travelled).unwrap(), text, "it goes on as it came");
        assert_eq!(*travelled.into_value::<Vec<u64>>().unwrap(), counts);
        assert_eq!(*stayed.into_value::<Vec<u64>>().unwrap(), counts);
    }

    #[test]
    fn a_state_of_other_work_is_refused() {
        let state = State::of(Arc::new("so far".to_string()));
        let text = serde_json::to_string(&state).unwrap();
        assert!(state.into_value::<Vec<u64>>().is_err());
        assert!(serde_json::from_str::<State>(&text).unwrap().into_value::<Vec<u64>>().is_err());
    }
}
