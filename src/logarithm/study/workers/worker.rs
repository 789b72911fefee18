// Written by Logarithm around functions of an array of numbers. Its one argument says which of them is timed.
#![allow(dead_code, unused)]
mod asked {
    include!({file});
    pub fn known(name: &str) -> Option<Box<dyn super::Known>> {
        match name {
{functions}
            _ => None,
        }
    }
}
use std::hint::black_box;
use std::io::{BufRead, Write};
use std::time::Instant;

const COPIES_MOST: usize = 1 << 25; // bytes

pub trait Number: Copy + 'static {
    fn of(value: f64) -> Self;
    fn told(self) -> String;
}
macro_rules! number { ($($kind:ty)*) => { $(impl Number for $kind {
    fn of(value: f64) -> Self { value as $kind }
    fn told(self) -> String { format!("{}", self) }
})* } }
number!(f64 f32 i8 i16 i32 i64 isize u8 u16 u32 u64 usize);

pub trait Answer { fn told(&self) -> Option<String>; }
macro_rules! answer { ($($kind:ty)*) => { $(impl Answer for $kind { fn told(&self) -> Option<String> { Some(format!("{}", self)) } })* } }
answer!(f64 f32 i8 i16 i32 i64 isize u8 u16 u32 u64 usize bool);
impl Answer for () { fn told(&self) -> Option<String> { None } }
impl<T: Number> Answer for Vec<T> { fn told(&self) -> Option<String> { Some(list(self)) } }
impl<T: Answer> Answer for Option<T> {
    fn told(&self) -> Option<String> {
        Some(self.as_ref().and_then(|own| own.told()).unwrap_or("null".to_string()))
    }
}
fn list<T: Number>(values: &[T]) -> String {
    format!("[{}]", values.iter().map(|each| each.told()).collect::<Vec<_>>().join(", "))
}

pub trait Known {
    fn clear(&mut self);
    fn load(&mut self, text: &str) -> bool;
    fn run(&mut self, calls: usize, among: usize) -> (u128, String);
}

/// A function, and the numbers that it is called on in turn; one that changes them gets copies.
pub struct Function<T: Number, R: Answer, F: FnMut(&mut Vec<T>) -> R> {
    pub call: F,
    pub changes: bool,
    pub loaded: Vec<Vec<T>>,
    pub next: usize,
}

impl<T: Number, R: Answer, F: FnMut(&mut Vec<T>) -> R> Known for Function<T, R, F> {
    fn clear(&mut self) { self.loaded.clear(); self.next = 0; }

    fn load(&mut self, text: &str) -> bool {
        let parts = text.split(|sign: char| sign.is_whitespace() || sign == ',').filter(|part| !part.is_empty());
        let found: Result<Vec<f64>, _> = parts.map(|part| part.parse::<f64>()).collect();
        match found {
            Ok(values) => { self.loaded.push(values.into_iter().map(T::of).collect()); true }
            Err(_) => false,
        }
    }

    fn run(&mut self, calls: usize, among: usize) -> (u128, String) {
        let (mut took, mut told) = (0, String::new());
        let wide = std::mem::size_of::<T>() * self.loaded.iter().map(|each| each.len()).max().unwrap_or(0) + 1;
        let each = if self.changes { (COPIES_MOST / wide).clamp(1, calls) } else { calls };
        let mut done = 0;
        while done < calls {
            let many = each.min(calls - done);
            let mut last = None;
            if self.changes {
                // Copies are made before the clock is read, and freed after it.
                let mut copies: Vec<Vec<T>> = (0..many).map(|at| self.loaded[(self.next + at) % among].clone()).collect();
                let start = Instant::now();
                for own in copies.iter_mut() { last = Some(black_box((self.call)(black_box(own)))); }
                took += start.elapsed().as_nanos();
                told = last.and_then(|own| own.told()).unwrap_or_else(|| list(copies.last().unwrap()));
            } else {
                let start = Instant::now();
                for at in 0..many { last = Some(black_box((self.call)(black_box(&mut self.loaded[(self.next + at) % among])))); }
                took += start.elapsed().as_nanos();
                told = last.and_then(|own| own.told()).unwrap_or("null".to_string());
            }
            self.next = (self.next + many) % among;
            done += many;
        }
        (took, told)
    }
}

fn main() {
    let Some(mut own) = std::env::args().nth(1).and_then(|name| asked::known(&name)) else { std::process::exit(2) };
    println!("logarithm-worker 3 Rust");
    let mut is_loaded = false;
    for line in std::io::stdin().lock().lines() {
        let Ok(line) = line else { break };
        let (word, rest) = line.split_once(' ').unwrap_or((line.as_str(), ""));
        match word {
            "clear" => { own.clear(); is_loaded = false; println!("ok") }
            "load" => match std::fs::read_to_string(rest) {
                // A file holds many instances; the sign U+001E stands before each.
                Ok(text) if text.split('\u{1e}').skip(1).all(|each| own.load(each)) => { is_loaded = true; println!("ok") }
                _ => println!("error cannot read the instance"),
            },
            "run" if is_loaded => {
                let mut parts = rest.split(' ').map(|part| part.parse().unwrap_or(1));
                let (calls, among) = (parts.next().unwrap_or(1).max(1), parts.next().unwrap_or(1).max(1));
                let (took, told) = own.run(calls, among);
                println!("done {} {}", took, told)
            }
            "end" => break,
            _ => println!("error unknown request: {:.60}", line),
        }
        std::io::stdout().flush().ok();
    }
}
