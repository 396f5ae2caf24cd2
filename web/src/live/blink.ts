/** How long a blinking face stays in each half of its period. */
const half = 500;

/**
 * Blinking faces are dark while the document has the class `blink-off`. It follows the clock of the day,
 * so that all windows and controllers blink in phase, and costs two style changes a second.
 */
export function blinkInPhase() {
  const tick = () => {
    const now = Date.now();
    document.documentElement.classList.toggle("blink-off", Math.floor(now / half) % 2 === 1);
    setTimeout(tick, half - (now % half));
  };
  tick();
}
