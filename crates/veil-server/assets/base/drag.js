// Following the pointer from a press to where it is let go.

// So far, in pixels of the screen, a press may go and still be a click.
const SLACK = 3;

/**
 * Follows a press. `moved` hears each move once the pointer has gone far enough; `done` hears where it was let go and
 * whether it went that far; `left` hears that the drag was broken off, by Escape or by the system, and puts back what
 * was there before.
 * @param {{ clientX: number, clientY: number, pointerId: number }} press
 * @param {{ moved: (event: PointerEvent, by: Place) => void, done?: (far: boolean, event: PointerEvent) => void, left?: () => void, slack?: number }} heard
 */
export function followPointer(press, { moved, done, left, slack = SLACK }) {
  let far = false;
  const by = (/** @type {PointerEvent} */ event) => /** @type {Place} */ ([event.clientX - press.clientX, event.clientY - press.clientY]);
  const mine = (/** @type {PointerEvent} */ event) => event.pointerId === press.pointerId;
  const move = (/** @type {PointerEvent} */ event) => {
    if (!mine(event)) return;
    far ||= Math.hypot(...by(event)) >= slack;
    if (far) moved(event, by(event));
  };
  const end = () => {
    window.removeEventListener("pointermove", move);
    window.removeEventListener("pointerup", up);
    window.removeEventListener("pointercancel", cancel);
    window.removeEventListener("keydown", escape, true);
  };
  const up = (/** @type {PointerEvent} */ event) => {
    if (!mine(event)) return;
    end();
    done?.(far, event);
  };
  const broken = () => {
    end();
    left?.();
  };
  const cancel = (/** @type {PointerEvent} */ event) => mine(event) && broken();
  const escape = (/** @type {KeyboardEvent} */ event) => {
    if (event.key !== "Escape" || !far) return;
    event.stopPropagation();
    event.preventDefault();
    broken();
  };
  window.addEventListener("pointermove", move);
  window.addEventListener("pointerup", up);
  window.addEventListener("pointercancel", cancel);
  window.addEventListener("keydown", escape, true);
}
