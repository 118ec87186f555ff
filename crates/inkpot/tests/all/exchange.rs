//! What was found in open formats: networks as ONNX, read by a decoder of the test's own, tables as CSV and Parquet.

use std::collections::HashMap;
use std::fs;

use crate::common::{Bench, NETWORK, TABLE, changed, json};
use inkpot_core::Chance;
use inkpot_learn::{Body, Memory, Weights};
use insta::assert_snapshot;
use serde_json::Value;

/// A network of two hidden layers.
fn policy() -> String {
    changed(&changed(NETWORK, "layers = [8]", "layers = [16, 8]"), "seeds = 2", "seeds = 1")
}

/// A table that has learned a little.
fn table() -> String {
    changed(&changed(TABLE, "steps = 40_000", "steps = 8_000"), "seeds = 3", "seeds = 1")
}

/// One field of a message: its number, and its bytes or the number that it holds.
enum Field<'a> {
    Bytes(&'a [u8]),
    Number(u64),
}

/// The fields of a message as the encoding of protocol buffers has them.
fn fields(mut bytes: &[u8]) -> Vec<(u64, Field<'_>)> {
    fn number(bytes: &mut &[u8]) -> u64 {
        let mut value = 0;
        for shift in (0..).step_by(7) {
            let (first, rest) = bytes.split_first().expect("a number ends");
            *bytes = rest;
            value |= u64::from(first & 0x7f) << shift;
            if first & 0x80 == 0 {
                break;
            }
        }
        value
    }
    let mut all = Vec::new();
    while !bytes.is_empty() {
        let key = number(&mut bytes);
        let field = match key & 7 {
            0 => Field::Number(number(&mut bytes)),
            2 => {
                let length = number(&mut bytes) as usize;
                let (field, rest) = bytes.split_at(length);
                bytes = rest;
                Field::Bytes(field)
            }
            other => panic!("fields of wire type {other} are not written"),
        };
        all.push((key >> 3, field));
    }
    all
}

/// The messages or texts of a field.
fn parts<'a>(message: &'a [u8], number: u64) -> Vec<&'a [u8]> {
    let field = |(of, field): (u64, Field<'a>)| match field {
        Field::Bytes(bytes) if of == number => Some(bytes),
        _ => None,
    };
    fields(message).into_iter().filter_map(field).collect()
}

fn text(bytes: &[u8]) -> String {
    String::from_utf8(bytes.to_vec()).expect("a name is text")
}

/// The whole numbers of a field, together in one piece or one by one.
fn wholes(message: &[u8], number: u64) -> Vec<u64> {
    let packed = |bytes: &[u8]| -> Vec<u64> {
        // All of them are below 128 here.
        bytes.iter().map(|bit| u64::from(*bit)).collect()
    };
    let values = fields(message).into_iter().filter(|(of, _)| *of == number);
    values
        .flat_map(|(_, field)| match field {
            Field::Number(number) => vec![number],
            Field::Bytes(bytes) => packed(bytes),
        })
        .collect()
}

/// What a model gives for an observation, computed as the standard describes its operators, in double precision.
fn given(model: &[u8], observation: &[f64]) -> Vec<f64> {
    let graph = parts(model, 7)[0];
    let constants: HashMap<String, (Vec<u64>, Vec<f64>)> = parts(graph, 5)
        .into_iter()
        .map(|tensor| {
            assert_eq!(wholes(tensor, 2), [1], "numbers of 32 bits");
            let raw = parts(tensor, 9)[0].chunks_exact(4);
            let values = raw.map(|four| f64::from(f32::from_le_bytes(four.try_into().unwrap()))).collect();
            (text(parts(tensor, 8)[0]), (wholes(tensor, 1), values))
        })
        .collect();
    let name = |info: &[u8]| text(parts(info, 1)[0]);
    let mut known = HashMap::from([(name(parts(graph, 11)[0]), observation.to_vec())]);
    for node in parts(graph, 1) {
        let inputs: Vec<String> = parts(node, 1).into_iter().map(text).collect();
        let input = &known[&inputs[0]];
        let next: Vec<f64> = match text(parts(node, 4)[0]).as_str() {
            "Tanh" => input.iter().map(|x| x.tanh()).collect(),
            "Gemm" => {
                assert!(parts(node, 5).is_empty(), "nothing is turned or scaled");
                let ((sizes, weights), (_, biases)) = (&constants[&inputs[1]], &constants[&inputs[2]]);
                let columns = sizes[1] as usize;
                assert_eq!(input.len(), sizes[0] as usize);
                let sum = |column: usize| -> f64 {
                    input.iter().enumerate().map(|(row, x)| x * weights[row * columns + column]).sum()
                };
                (0..columns).map(|column| sum(column) + biases[column]).collect()
            }
            other => panic!("{other} is not written"),
        };
        known.insert(text(parts(node, 2)[0]), next);
    }
    known.remove(&name(parts(graph, 12)[0])).expect("the output is computed")
}

#[test]
fn a_network_leaves_as_onnx_and_comes_back() {
    let bench = Bench::kept("exchange");
    bench.write("brief.toml", policy());
    bench.ok("train brief.toml --name boats");
    assert_snapshot!(bench.console("ledger export boats --out policy.onnx"));
    let model = fs::read(bench.path("policy.onnx")).unwrap();
    assert_eq!(bench.run("ledger export boats --to onnx").stdout, model);

    // What another program is told about it.
    let opsets: Vec<u64> = parts(&model, 8).into_iter().flat_map(|set| wholes(set, 2)).collect();
    assert_eq!(opsets, [17]);
    let facts: Vec<String> = parts(&model, 14)
        .into_iter()
        .map(|entry| format!("{}: {}", text(parts(entry, 1)[0]), text(parts(entry, 2)[0])))
        .collect();
    assert_snapshot!("facts_beside_a_model", facts.join("\n"));

    // A trace has what the network observed, in the order of its inputs, and what it gave: another program that computes it checks
    // itself by that.
    bench.ok("match regatta ledger/boats/champion.toml --trace trace.jsonl");
    let trace = bench.read("trace.jsonl");
    let choices = trace.lines().map(json).filter(|line| line["event"] == "choice").take(20);
    let numbers = |figures: &Value| figures.as_array().unwrap().iter().map(|x| x.as_f64().unwrap()).collect::<Vec<_>>();
    for choice in choices.filter(|choice| !choice["thoughts"].is_null()) {
        let (observed, gave) = (numbers(&choice["thoughts"]["observed"]), numbers(&choice["thoughts"]["given"]));
        let again = given(&model, &observed);
        assert_eq!(again.len(), gave.len());
        assert!(again.iter().zip(&gave).all(|(a, b)| (a.clamp(-1.0, 1.0) - b).abs() < 1e-4), "{again:?} {gave:?}");
    }
    assert!(trace.contains("\"observed\":["), "{trace}");

    // An independent computation agrees with the network as it plays here.
    let Body::Network(network) =
        Weights::from_bytes(&fs::read(bench.path("ledger/boats/champion-1.safetensors")).unwrap())
            .expect("it is a network")
            .body
    else {
        panic!("a policy is a network")
    };
    let (mut chance, mut memory, mut worst) = (Chance::from_seed(1), Memory::default(), 0.0_f64);
    let mut samples = String::new();
    for _ in 0..1000 {
        let observation: Vec<f64> = (0..network.inputs()).map(|_| chance.between(-1.0, 1.0)).collect();
        let narrow: Vec<f32> = observation.iter().map(|x| *x as f32).collect();
        let wide: Vec<f64> = narrow.iter().copied().map(f64::from).collect();
        let expected = given(&model, &wide);
        let played = network.forward(&narrow, &mut memory);
        assert_eq!(expected.len(), played.len());
        let line: Vec<String> = narrow.iter().chain(played).map(f32::to_string).collect();
        samples += &(line.join(",") + "\n");
        worst = expected.iter().zip(played).fold(worst, |worst, (a, b)| worst.max((a - f64::from(*b)).abs()));
    }
    assert!(worst < 1e-5, "{worst}");
    // For a public runtime: see CONTRIBUTING.
    bench.write("samples.csv", samples);

    // It comes back as an agent that plays the same.
    let played = |file: &str, name: &str| {
        bench
            .ok(&format!("batch regatta policy:file={file},decide_every=5 --level reach -m 40 --seed 2 --name {name}"));
        bench.ok(&format!("ledger export {name} --to csv"))
    };
    let rows = [played("policy.onnx", "back"), played("ledger/boats/champion-1.safetensors", "own")];
    assert!(rows[0] == rows[1], "a network that was read back plays another way");
}

#[test]
fn a_table_leaves_as_csv_and_parquet() {
    let bench = Bench::new();
    bench.write("brief.toml", table());
    bench.ok("train brief.toml --name boats");
    let table = bench.read("ledger/boats/champion-1.csv");
    assert_eq!(bench.ok("ledger export boats --champion"), table);
    bench.ok("ledger export boats --champion --out table.parquet");
    let parquet = fs::read(bench.path("table.parquet")).unwrap();
    assert!(parquet.starts_with(b"PAR1") && parquet.ends_with(b"PAR1"));
    let rows = bench.ok("ledger export boats --to csv");
    assert!(rows.starts_with("cell,"), "without --champion it is the matches");
}

#[test]
fn what_cannot_be_exported_or_played_is_refused() {
    let bench = Bench::new();
    bench.write("brief.toml", policy());
    bench.ok("train brief.toml --name boats");
    bench.write("table.toml", table());
    bench.ok("train table.toml --name table");
    bench.ok("batch piste heron dunlin -m 2 --name plain");
    bench.ok("ledger export boats --out policy.onnx");
    let mut model = fs::read(bench.path("policy.onnx")).unwrap();
    bench.write("cut.onnx", &model[..model.len() / 2]);
    let first = model.windows(4).position(|four| four == b"Tanh").expect("it has one");
    model[first..first + 4].copy_from_slice(b"Sinh");
    bench.write("sinh.onnx", &model);
    let consoles = [
        "ledger export plain --champion",
        "ledger export table --to onnx",
        "ledger export boats --champion --to parquet",
        "ledger export boats --to jsonl --champion",
        "ledger export boats --to csv --out policy.onnx",
        "batch regatta policy:file=cut.onnx --level reach -m 2",
        "batch regatta policy:file=sinh.onnx --level reach -m 2",
        "batch piste policy:file=policy.onnx heron -m 2",
        "batch berths policy:file=policy.onnx drifter -m 2",
    ]
    .map(|arguments| bench.console(arguments));
    assert!(consoles.iter().all(|console| console.contains("exit 2")));
    assert_snapshot!(consoles.join("\n\n"));
}
