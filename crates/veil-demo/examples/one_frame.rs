//! Draws the first frames of shots and says what each costs.
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Instant;

use veil_demo::Beside;

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut asked = std::env::args().skip(1);
    let folder = std::path::PathBuf::from(asked.next().unwrap_or_else(|| "demo-frames".into()));
    let codes: Vec<String> = asked.collect();
    for shot in veil_demo::Shot::ALL {
        let plan = shot.plan();
        if !codes.is_empty() && !codes.iter().any(|code| code == plan.code) {
            continue;
        }
        let stop = AtomicBool::new(false);
        let start = Instant::now();
        veil_demo::draw(shot, plan.frames, &folder, Beside::nothing(&stop), |_| {
            stop.store(true, Ordering::Relaxed)
        })?;
        let pixels = f64::from(plan.width * plan.height);
        let seconds = start.elapsed().as_secs_f64();
        println!("{}: {seconds:.2} s a frame, {:.2} µs a pixel", plan.code, seconds / pixels * 1e6);
    }
    Ok(())
}
