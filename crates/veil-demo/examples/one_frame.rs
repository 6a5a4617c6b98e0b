//! Draws single frames of a shot and says what each costs.
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Instant;

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let folder = std::path::PathBuf::from(std::env::args().nth(1).unwrap_or_else(|| "demo-frames".into()));
    for shot in veil_demo::Shot::ALL {
        let stop = AtomicBool::new(false);
        let start = Instant::now();
        veil_demo::draw(shot, shot.plan().frames, &folder, &stop, |_| stop.store(true, Ordering::Relaxed))?;
        let plan = shot.plan();
        let pixels = f64::from(plan.width * plan.height);
        let seconds = start.elapsed().as_secs_f64();
        println!("{}: {seconds:.2} s a frame, {:.2} µs a pixel", plan.code, seconds / pixels * 1e6);
    }
    Ok(())
}
