"""How soon the workshop shows a change: from pressing a key to the last instrument's new engraving painted.

Needs ./start running: `python -m bench.redraw`. Prints each change in milliseconds, and the same changes once more when
the page already has their engravings: what is left is the page's own share.
"""

from __future__ import annotations

import os
import statistics

from playwright.sync_api import Page, sync_playwright

from attentive_owl.demo import scenario

BASE = f"http://127.0.0.1:{os.environ.get('OWL_PORT', '8420')}"
KEYS = ["A", "C", "F", "G", "B♭", "E♭", "D"]
_PRESS = """async (key) => {
  const engraved = () => new Map([...document.querySelectorAll("section[aria-label] .engraving")]
    .map(own => [own.closest("section").ariaLabel, own.innerHTML]));
  const before = engraved();
  const button = [...document.querySelectorAll("[aria-label='Key'] button")].find(own => own.textContent === key);
  const start = performance.now();
  button.click();
  return await new Promise(done => {
    const observer = new MutationObserver(() => {
      const now = engraved();
      if ([...before].some(([name, html]) => !now.has(name) || now.get(name) === html)) return;
      observer.disconnect();
      requestAnimationFrame(() => setTimeout(() => done(performance.now() - start)));
    });
    observer.observe(document.body, { childList: true, subtree: true, characterData: true });
  });
}"""


def changes(page: Page) -> list[float]:
    out = []
    for key in KEYS:
        out.append(page.evaluate(_PRESS, key))
        page.wait_for_timeout(600)
    return out


def main() -> None:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
        )
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(BASE)
        page.get_by_role("button", name="I teach").click()
        page.get_by_label("E-mail").fill(scenario.TEACHER_EMAIL)
        page.get_by_label("Password").fill(scenario.TEACHER_PASSWORD)
        page.get_by_role("button", name="Sign in").click()
        page.get_by_role("heading", name="This week").wait_for()
        page.goto(f"{BASE}/workshop")
        page.locator("[aria-label='Double bass'] .engraving svg").first.wait_for()
        page.wait_for_timeout(1000)
        # The D major that stands there is asked again at the end of the first round, from what the page keeps.
        fresh, kept = changes(page)[:-1], changes(page)
        browser.close()
    for name, figures in (("asked of the server", fresh), ("kept by the page", kept)):
        print(f"{name:20} median {statistics.median(figures):4.0f} ms:", *(f"{ms:.0f}" for ms in figures))
    print(f"ratio {statistics.median(fresh) / statistics.median(kept):.1f}")


if __name__ == "__main__":
    main()
