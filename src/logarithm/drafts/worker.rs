// A worker in Rust: kept alive by Logarithm, it loads instances, runs the job on them in turn,
// and times it itself.
// In a study:  study.program("in Rust", worker=["{build}/worker"], build=["rustc", "-O", "-o", "{build}/worker", "{name}"])
// with a family of format="lines".
use std::hint::black_box;
use std::io::{self, BufRead, Write};
use std::time::Instant;

// ---- Your job: from here ... --------------------------------------------------------------------------------
// The highest of the values in the instance: every number of the file.
#[inline(never)]
fn job(values: &[f64]) -> f64 {
    values.iter().copied().fold(values.first().copied().unwrap_or(0.0), f64::max)
}
// ---- ... to here. -------------------------------------------------------------------------------------------

fn read(text: &str) -> Result<Vec<f64>, String> {
    text.split(|c: char| c.is_whitespace() || ",[]".contains(c))
        .filter(|part| !part.is_empty())
        .map(|part| part.parse::<f64>().map_err(|error| format!("{part}: {error}")))
        .collect()
}

// A file holds many instances; the sign U+001E stands before each.
fn load(path: &str) -> Result<Vec<Vec<f64>>, String> {
    let text = std::fs::read_to_string(path).map_err(|error| error.to_string())?;
    text.split('\u{1e}').skip(1).map(read).collect()
}

fn main() {
    let mut instances: Vec<Vec<f64>> = Vec::new();
    let mut next = 0;
    let mut out = io::stdout();
    writeln!(out, "logarithm-worker 3 Rust").unwrap();
    out.flush().unwrap();
    for line in io::stdin().lock().lines() {
        let line = line.unwrap_or_default();
        if line == "clear" {
            instances.clear();
            next = 0;
            writeln!(out, "ok").unwrap();
        } else if let Some(path) = line.strip_prefix("load ") {
            match load(path) {
                Ok(loaded) => {
                    instances.extend(loaded);
                    writeln!(out, "ok").unwrap();
                }
                Err(error) => writeln!(out, "error {error}").unwrap(),
            }
        } else if let (Some(rest), false) = (line.strip_prefix("run "), instances.is_empty()) {
            let (calls, among) = rest.split_once(' ').unwrap_or((rest, "1"));
            let calls: u64 = calls.parse().unwrap_or(1);
            let among: usize = among.parse().unwrap_or(1);
            next %= among;
            let mut answer = 0.0;
            let start = Instant::now();
            for _ in 0..calls {
                answer = black_box(job(black_box(&instances[next])));
                next = if next + 1 == among { 0 } else { next + 1 };
            }
            writeln!(out, "done {} {:?}", start.elapsed().as_nanos(), answer).unwrap();
        } else if line == "end" {
            break;
        } else {
            writeln!(out, "error unknown request: {line}").unwrap();
        }
        out.flush().unwrap();
    }
}
