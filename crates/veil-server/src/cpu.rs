//! Threads for pixels, apart from those that answer requests.

use std::any::Any;
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};
use std::time::{Duration, Instant};

use rayon::{ThreadPool, ThreadPoolBuildError, ThreadPoolBuilder};
use tokio::sync::Semaphore;
use veil_pixels::{Cancel, Progress};

use crate::error::WebError;

/// One pool for what a person waits for, one for the rest, which starts while nobody waits.
pub(crate) struct Cpu {
    waited_for: ThreadPool,
    rest: Arc<ThreadPool>,
    waiting: Arc<AtomicUsize>,
    one_at_a_time: Arc<Semaphore>,
}

/// How long what can wait looks away from those who wait.
const PAUSE: Duration = Duration::from_millis(4);

/// How long it looks away at most.
const LONGEST_WAIT: Duration = Duration::from_millis(400);

/// How often is told how far work is.
const TELLS_EVERY: Duration = Duration::from_millis(300);

/// What listeners were told last; in the end, whoever ends it, that there is nothing to tell.
struct Telling<F: Fn(Option<Progress>)> {
    told: Option<Progress>,
    tell: F,
}

impl<F: Fn(Option<Progress>)> Telling<F> {
    fn now(&mut self, progress: Option<Progress>) {
        if progress != self.told {
            self.told = progress;
            (self.tell)(progress);
        }
    }
}

impl<F: Fn(Option<Progress>)> Drop for Telling<F> {
    fn drop(&mut self) {
        self.now(None);
    }
}

/// Counts down, and calls the work off, when nobody waits any more.
struct Waiting {
    count: Arc<AtomicUsize>,
    cancel: Cancel,
}

impl Drop for Waiting {
    fn drop(&mut self) {
        self.count.fetch_sub(1, Ordering::Relaxed);
        self.cancel.set();
    }
}

impl Cpu {
    pub(crate) fn new() -> Result<Self, ThreadPoolBuildError> {
        let pool =
            |name: &'static str| ThreadPoolBuilder::new().thread_name(move |n| format!("{name}-{n}")).build();
        Ok(Self {
            waited_for: pool("frame")?,
            rest: Arc::new(pool("rest")?),
            waiting: Arc::default(),
            one_at_a_time: Arc::new(Semaphore::new(1)),
        })
    }

    /// Does work that a person waits for; calls it off when the request goes away.
    pub(crate) async fn now<T: Send + 'static>(
        &self,
        work: impl FnOnce(&Cancel) -> Result<T, WebError> + Send + 'static,
    ) -> Result<T, WebError> {
        self.waiting.fetch_add(1, Ordering::Relaxed);
        let guard = Waiting { count: Arc::clone(&self.waiting), cancel: Cancel::new() };
        on(&self.waited_for, guard.cancel.clone(), work).await
    }

    /// The same, telling now and then how far it is; none once there is nothing to tell any more.
    pub(crate) async fn now_telling<T: Send + 'static>(
        &self,
        work: impl FnOnce(&Cancel) -> Result<T, WebError> + Send + 'static,
        tell: impl Fn(Option<Progress>),
    ) -> Result<T, WebError> {
        self.waiting.fetch_add(1, Ordering::Relaxed);
        let guard = Waiting { count: Arc::clone(&self.waiting), cancel: Cancel::new() };
        let mut telling = Telling { told: None, tell };
        let done = on(&self.waited_for, guard.cancel.clone(), work);
        tokio::pin!(done);
        loop {
            tokio::select! {
                done = &mut done => return done,
                () = tokio::time::sleep(TELLS_EVERY) => telling.now(guard.cancel.progress()),
            }
        }
    }

    /// Does work that can wait, one at a time, once nobody waits for a picture.
    pub(crate) async fn later<T: Send + 'static>(
        &self,
        work: impl FnOnce(&Cancel) -> Result<T, WebError> + Send + 'static,
    ) -> Result<T, WebError> {
        let turn = Arc::clone(&self.one_at_a_time).acquire_owned().await;
        self.until_idle().await;
        let guard = Waiting { count: Arc::new(AtomicUsize::new(1)), cancel: Cancel::new() };
        let done = on(&self.rest, guard.cancel.clone(), work).await;
        drop(turn);
        done
    }

    /// Until nobody waits for a picture, or one has been waited for long enough: those who look at one shot must not keep
    /// all small pictures from those who look at another.
    async fn until_idle(&self) {
        let begun = Instant::now();
        while self.waiting.load(Ordering::Relaxed) > 0 && begun.elapsed() < LONGEST_WAIT {
            tokio::time::sleep(PAUSE).await;
        }
    }

    /// Holds a thread of [`Self::rest`] while a person waits for a picture; until `stop` at the longest.
    pub(crate) fn wait_until_idle(&self, stop: &AtomicBool) {
        while self.waiting.load(Ordering::Relaxed) > 0 && !stop.load(Ordering::Relaxed) {
            std::thread::sleep(PAUSE);
        }
    }

    /// The pool for work that can wait.
    pub(crate) fn rest(&self) -> Arc<ThreadPool> {
        Arc::clone(&self.rest)
    }
}

async fn on<T: Send + 'static>(
    pool: &ThreadPool,
    cancel: Cancel,
    work: impl FnOnce(&Cancel) -> Result<T, WebError> + Send + 'static,
) -> Result<T, WebError> {
    let (send, receive) = tokio::sync::oneshot::channel();
    pool.spawn(move || {
        let done = if cancel.is_set() { Err(WebError::Cancelled) } else { guarded(|| work(&cancel)) };
        // The receiver is gone when the request is.
        let _ = send.send(done);
    });
    receive.await.map_err(|_| WebError::Internal("the work stopped without a result".into()))?
}

/// Does something in which a panic is the error of whoever asked, and nobody else's.
pub(crate) fn guarded<T>(work: impl FnOnce() -> Result<T, WebError>) -> Result<T, WebError> {
    // What the work shares with others are caches and the store, which are whole after every call to them.
    catch_unwind(AssertUnwindSafe(work)).unwrap_or_else(|panic| Err(WebError::Internal(sentence(&*panic))))
}

/// What is said of a panic.
fn sentence(panic: &(dyn Any + Send)) -> String {
    let told = panic.downcast_ref::<&str>().map(|text| (*text).to_owned());
    let told = told.or_else(|| panic.downcast_ref::<String>().cloned()).unwrap_or_default();
    format!("the program made a mistake here, and nothing is lost: {told}")
}

/// Does something that may block, such as asking the store, on a thread that may wait.
pub(crate) async fn blocking<T: Send + 'static>(
    work: impl FnOnce() -> Result<T, WebError> + Send + 'static,
) -> Result<T, WebError> {
    let done = tokio::task::spawn_blocking(|| guarded(work)).await;
    done.map_err(|_| WebError::Internal("the work stopped without a result".into()))?
}

/// The same for what may take long: it is called off when the request goes away.
pub(crate) async fn called_off_with_its_request<T: Send + 'static>(
    work: impl FnOnce(&Cancel) -> Result<T, WebError> + Send + 'static,
) -> Result<T, WebError> {
    let guard = Waiting { count: Arc::new(AtomicUsize::new(1)), cancel: Cancel::new() };
    let cancel = guard.cancel.clone();
    blocking(move || work(&cancel)).await
}

#[cfg(test)]
mod tests {
    use super::*;

    #[tokio::test]
    async fn a_panic_is_the_error_of_who_asked_and_the_next_is_answered() {
        let cpu = Cpu::new().unwrap();
        let broken = cpu.now(|_| -> Result<u8, WebError> { panic!("a stage broke") }).await;
        let told = broken.unwrap_err().to_string();
        assert!(told.contains("nothing is lost") && told.contains("a stage broke"), "{told}");
        let late = cpu.later(|_| -> Result<u8, WebError> { panic!("a thumbnail broke") }).await;
        assert!(late.is_err());
        assert!(blocking(|| -> Result<u8, WebError> { panic!("the store broke") }).await.is_err());
        assert_eq!((cpu.now(|_| Ok(1)).await.unwrap(), cpu.later(|_| Ok(2)).await.unwrap()), (1, 2));
    }

    #[tokio::test]
    async fn how_far_work_is_is_told_and_that_there_is_no_more_to_tell() {
        let cpu = Cpu::new().unwrap();
        let told = std::sync::Mutex::new(Vec::new());
        let work = |cancel: &Cancel| {
            cancel.tell(3, 8);
            std::thread::sleep(3 * TELLS_EVERY);
            Ok(())
        };
        cpu.now_telling(work, |progress| told.lock().unwrap().push(progress)).await.unwrap();
        assert_eq!(*told.lock().unwrap(), [Some(Progress { done: 3, of: 8 }), None]);
    }

    #[tokio::test]
    async fn what_can_wait_is_done_although_somebody_always_waits_for_a_picture() {
        let cpu = Arc::new(Cpu::new().unwrap());
        let dragging = Arc::clone(&cpu);
        // One thread is held by a picture that takes as long as this test.
        let drag = tokio::spawn(async move {
            let until_called_off = |cancel: &Cancel| {
                while !cancel.is_set() {
                    std::thread::sleep(PAUSE);
                }
                Ok(())
            };
            let _ = dragging.now(until_called_off).await;
        });
        while cpu.waiting.load(Ordering::Relaxed) == 0 {
            tokio::time::sleep(PAUSE).await;
        }
        let begun = Instant::now();
        assert!(cpu.later(|_| Ok(())).await.is_ok());
        assert!(begun.elapsed() >= LONGEST_WAIT, "it first looks away");
        drag.abort();
    }
}
