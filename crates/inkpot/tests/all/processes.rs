//! Studies whose work two processes do: jobs, tasks and answers travel as bytes, and what comes out is what the program
//! makes on its threads.

use std::collections::BTreeMap;
use std::io::{BufReader, BufWriter, Write};
use std::net::{TcpListener, TcpStream};
use std::ops::ControlFlow;
use std::process::{Child, Command, Stdio};
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Mutex, mpsc};
use std::thread;

use crate::common::{Bench, KNOBS, NETWORK, TABLE};
use inkpot_core::Halt;
use inkpot_lab::{
    Answer, Basis, Executor, Fell, Job, Request, Results, Runner, SearchError, SearchPlan, Sitting, StudyPlan, Task,
    basis_hash, job, read_plan, search, search_job,
};
use inkpot_ledger::{Ledger, Machine, Manifest, Naming};
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};

/// Says to this binary, started again, where to find who asks.
const ASKED_FROM: &str = "INKPOT_TEST_ASKED_FROM";

/// What a worker is sent.
#[derive(Serialize, Deserialize)]
enum Message {
    /// What the requests after it rest on.
    Basis(String),
    Request(Box<Request>),
}

/// A connection to the other side.
struct Line {
    from: BufReader<TcpStream>,
    to: BufWriter<TcpStream>,
}

impl Line {
    fn new(stream: TcpStream) -> Self {
        let from = BufReader::new(stream.try_clone().expect("a stream is shared"));
        Self { from, to: BufWriter::new(stream) }
    }

    fn send(&mut self, value: &impl Serialize) {
        // With names, as some values leave fields out.
        self.to.write_all(&rmp_serde::to_vec_named(value).expect("it is plain data")).expect("it is sent");
        self.to.flush().expect("it is sent");
    }

    /// What comes next; nothing once the other side is gone.
    fn receive<T: DeserializeOwned>(&mut self) -> Option<T> {
        rmp_serde::from_read(&mut self.from).ok()
    }
}

/// The worker: nothing where the tests are run.
#[test]
fn worker() {
    let Ok(address) = std::env::var(ASKED_FROM) else { return };
    let mut line = Line::new(TcpStream::connect(address).expect("somebody asks"));
    let (registry, halt) = (inkpot_games::registry(), Halt::never());
    let mut next: Option<Message> = line.receive();
    while let Some(Message::Basis(text)) = next {
        let basis = Basis::read(&text).expect("it was written by this version");
        let game = registry.find(&basis.ground().game).expect("a house game");
        let job = job(&basis, game, &halt).expect("it makes sense");
        let (hash, mut worker) = (basis_hash(&text), job.worker());
        next = loop {
            match line.receive() {
                Some(Message::Request(request)) => {
                    assert_eq!(request.basis, hash, "it rests on what was said");
                    line.send(&worker(&request.task));
                }
                other => break other,
            }
        };
    }
}

/// Two processes that work.
struct Processes {
    workers: Vec<(Child, Mutex<Line>, AtomicU64)>,
}

impl Processes {
    fn two() -> Self {
        let listener = TcpListener::bind("127.0.0.1:0").expect("a free port");
        let address = listener.local_addr().expect("it has an address").to_string();
        let started = || {
            let mut command = Command::new(std::env::current_exe().expect("this binary"));
            command.args(["processes::worker", "--exact"]).env(ASKED_FROM, &address);
            let child = command.stdout(Stdio::null()).spawn().expect("it starts");
            let (stream, _) = listener.accept().expect("it calls");
            (child, Mutex::new(Line::new(stream)), AtomicU64::new(0))
        };
        Self { workers: (0..2).map(|_| started()).collect() }
    }

    /// How many tasks each did since this was asked last.
    fn done(&self) -> Vec<u64> {
        self.workers.iter().map(|(.., count)| count.swap(0, Ordering::Relaxed)).collect()
    }
}

impl Drop for Processes {
    fn drop(&mut self) {
        for (mut child, line, _) in self.workers.drain(..) {
            // They end when nobody asks any more.
            drop(line);
            let _ = child.wait();
        }
    }
}

impl Executor for Processes {
    fn run(
        &self,
        job: &dyn Job,
        tasks: &mut (dyn Iterator<Item = Task> + Send),
        take: &mut dyn FnMut(Task, Answer) -> ControlFlow<()>,
    ) -> Result<(), Fell> {
        let text = job.basis();
        let hash = basis_hash(&text);
        // Numbers go with tasks; nobody is given one after it was broken off.
        let queue = Mutex::new(Some(tasks.enumerate()));
        let (send, receive) = mpsc::channel();
        thread::scope(|scope| {
            for (_, line, count) in &self.workers {
                let (queue, text, hash, send) = (&queue, &text, &hash, send.clone());
                scope.spawn(move || {
                    let mut line = line.lock().expect("one at a time");
                    line.send(&Message::Basis(text.clone()));
                    loop {
                        let next = queue.lock().expect("sound").as_mut().and_then(Iterator::next);
                        let Some((number, task)) = next else { return };
                        line.send(&Message::Request(Box::new(Request { basis: hash.clone(), task: task.clone() })));
                        let answer: Answer = line.receive().expect("the worker lives");
                        count.fetch_add(1, Ordering::Relaxed);
                        let _ = send.send((number, task, answer));
                    }
                });
            }
            drop(send);
            let (mut waiting, mut due) = (BTreeMap::new(), 0);
            for (number, task, answer) in receive {
                waiting.insert(number, (task, answer));
                while let Some((task, answer)) = waiting.remove(&due) {
                    due += 1;
                    if take(task, answer).is_break() {
                        *queue.lock().expect("sound") = None;
                        return;
                    }
                }
            }
        });
        Ok(())
    }
}

fn stored<P: DeserializeOwned>(bench: &Bench, study: &str, file: &str) -> P {
    read_plan(&bench.read(&format!("ledger/{study}/{file}"))).expect("it is sound")
}

/// The stored rows of a study without how long decisions took.
fn rows(ledger: &Ledger, study: &str) -> Vec<String> {
    let study = ledger.open(study).expect("the study is there");
    let manifest = study.manifest().expect("it is sound");
    let measures = inkpot_games::registry().game(&manifest.game).expect("a house game").measure_names();
    let mut lines = Vec::new();
    let read = study.visit(&manifest, &measures, |part| {
        for (index, row) in part.rows.iter().enumerate() {
            let mut row = row.clone();
            (row.decision_us, row.decision_times) = (0.0, None);
            lines.push(format!("{row:?} {:?}", part.measures_of(index)));
        }
        Ok(())
    });
    read.expect("all of it is there");
    lines
}

const BATCH: &str = r#"kind = "batch"
game = "piste"
seed = 11
matches = 300

[[entrant]]
agent = "heron"

[[entrant]]
agent = "dunlin"

[[entrant]]
agent = "avocet"
"#;

#[test]
fn two_processes_play_the_rows_that_threads_play() {
    let (bench, processes) = (Bench::new(), Processes::two());
    for (name, brief) in
        [("batch", BATCH.into()), ("swiss", BATCH.replace("\"batch\"", "\"tournament\"\nformat = \"swiss\""))]
    {
        bench.write("brief.toml", &brief);
        bench.ok(&format!("run brief.toml --name {name}"));
        let plan: StudyPlan = stored(&bench, name, "plan.json");
        let registry = inkpot_games::registry();
        let game = registry.game("piste").expect("a house game");
        let apart = Ledger::at(&bench.path("apart"));
        let begun = apart.begin(Naming::Named(name)).expect("a new study");
        let manifest = Manifest::begin(name, "piste", plan.ground.seed, plan.total_blocks(), Machine::default());
        let (study, mut manifest, _lock) = begun.settle(manifest).expect("it is begun");
        let halt = Halt::never();
        let (sitting, _) =
            Runner::new(&plan, game, &processes, &halt).play(&study, &mut manifest, &mut |_| {}).expect("it is played");
        assert_eq!(sitting, Sitting::Complete);
        assert!(processes.done().iter().all(|done| *done > 5), "both worked");
        assert!(rows(&apart, name) == rows(&Ledger::at(&bench.path("ledger")), name), "{name}: the rows differ");
    }
}

#[test]
fn two_processes_search_to_where_threads_come() {
    let (bench, processes) = (Bench::new(), Processes::two());
    for (name, brief) in [("knobs", KNOBS), ("network", NETWORK), ("table", TABLE)] {
        bench.write("brief.toml", brief);
        bench.ok(&format!("run brief.toml --name {name}"));
        let sought: SearchPlan = stored(&bench, name, "search.json");
        let registry = inkpot_games::registry();
        let game = registry.find(&sought.as_search().ground().game).expect("a house game");
        let halt = Halt::never();
        let job = search_job(&sought, game, &halt).expect("it has work");
        let mut searching = sought.as_search().begin(game, None).expect("it begins");
        let ended =
            search(searching.as_mut(), &job, &processes, &halt, &mut Results::new(), |_, _| Ok::<(), SearchError>(()));
        assert_eq!(ended, Ok(Sitting::Complete));
        assert!(processes.done().iter().all(|done| *done > 1), "both worked");
        let saved = bench.read(&format!("ledger/{name}/checkpoints/search-1.txt"));
        let (_, checkpoint) = saved.split_once('\n').expect("its seal, and the text");
        assert!(searching.checkpoint() == checkpoint, "{name}: they end elsewhere");
        assert_eq!(searching.history(), bench.read(&format!("ledger/{name}/history.csv")));
    }
}
