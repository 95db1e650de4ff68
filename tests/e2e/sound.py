"""Sound in a test: the clock of the page's audio runs only as long as the test lets it.

What plays would otherwise be over before a busy machine has come to the next line. All of this asks the page through
what it shows: the state and the frame of the listening bar, and the peak of what goes to the speakers.
"""

from __future__ import annotations

from collections.abc import Callable

from playwright.sync_api import Locator, Page, expect

from tests.e2e.until import until

RATE = 44_100
STEP_S = 0.2

# Every audio context of the page is held from its making on; the page's own wish to go on waits for the test.
HOLD_THE_CLOCK = """(() => {
  const Real = window.AudioContext
  const contexts = []
  let isHeld = true
  window.AudioContext = class extends Real {
    constructor(options) {
      super(options)
      contexts.push(this)
      if (isHeld) void super.suspend()
    }
    resume() {
      return isHeld ? Promise.resolve() : super.resume()
    }
    goOn() {
      return super.resume()
    }
  }
  const clock = () => contexts.reduce((sum, context) => sum + context.currentTime, 0)
  window.soundClock = {
    loudest: 0,
    async release() {
      isHeld = false
      await Promise.all(contexts.map((context) => context.goOn()))
    },
    async hold() {
      isHeld = true
      await Promise.all(contexts.map((context) => context.suspend()))
    },
    async run(seconds) {
      const end = clock() + seconds
      await this.release()
      while (clock() < end) await new Promise((resolve) => setTimeout(resolve, 5))
      await this.hold()
    },
  }
  const look = () => {
    const peak = document.querySelector('[data-peak]')?.dataset.peak
    window.soundClock.loudest = Math.max(window.soundClock.loudest, Number(peak ?? 0))
    requestAnimationFrame(look)
  }
  requestAnimationFrame(look)
})()"""


def listening(page: Page) -> Locator:
    """The listening bar."""
    return page.get_by_role("contentinfo")


def frame(page: Page) -> int:
    """Where the playing is, in frames of the mix or track."""
    return int(listening(page).get_attribute("data-frame") or 0)


def expect_state(page: Page, state: str) -> None:
    """Wait until the listening bar is in a state."""
    expect(listening(page)).to_have_attribute("data-state", state)


def run(page: Page, seconds: float) -> None:
    """Let the sound go on for so long; it stands still after that."""
    page.evaluate("seconds => window.soundClock.run(seconds)", seconds)


def release(page: Page) -> None:
    """Let the sound go on as in real use, until the page is loaded again."""
    page.evaluate("() => window.soundClock.release()")


def run_until(page: Page, is_so: Callable[[], bool]) -> None:
    """Let the sound go on in small steps until something is so."""

    def is_so_now() -> bool:
        run(page, STEP_S)
        return is_so()

    until(page, is_so_now)


def hear_both(page: Page) -> None:
    """Play the open transition, both sides, by a press that no busy machine can make into a held one."""
    page.get_by_role("button", name="Both", exact=True).press("Enter")


def expect_sound(page: Page) -> None:
    """Sound goes to the speakers: the state says so, the playhead moves on, and samples are not zero."""
    expect_state(page, "playing")
    before = frame(page)
    page.evaluate("() => (window.soundClock.loudest = 0)")

    is_loud = "() => window.soundClock.loudest > 0.01"
    run_until(page, lambda: page.evaluate(is_loud) and frame(page) != before)
