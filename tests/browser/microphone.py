"""A microphone for the page that plays what a test lays on it: another sound each time that it is opened, or a fault."""

from __future__ import annotations

import io

import numpy as np
import soundfile
from playwright.sync_api import Page, Route

from tests.conftest import RATE

_SCRIPT = """
window.owlFault = null;
window.owlCue = null;
for (const kind of [AudioBufferSourceNode, AudioScheduledSourceNode]) {
  const start = kind.prototype.start;
  kind.prototype.start = function (when = 0, ...rest) {
    window.owlCue?.(Math.max(when - this.context.currentTime, 0));
    return start.call(this, when, ...rest);
  };
}
navigator.mediaDevices.getUserMedia = async () => {
  if (window.owlFault) throw new DOMException('', window.owlFault);
  window.owlCue = null;
  const answer = await fetch('/sound-of-the-test');
  const context = new AudioContext({ sampleRate: 44100 });
  const sound = await context.decodeAudioData(await answer.arrayBuffer());
  const out = context.createMediaStreamDestination();
  const source = context.createBufferSource();
  source.buffer = sound;
  source.connect(out);
  if (answer.headers.get('x-with') === 'count')
    window.owlCue = (inS) => {
      window.owlCue = null;
      source.start(context.currentTime + inS);
    };
  else source.start();
  window.owlTrack = out.stream.getAudioTracks()[0];
  return out.stream;
};
"""


class Microphone:
    """Its sound begins when the page opens it, or with the first that the page sounds after that, as a player's does."""

    def __init__(self, page: Page) -> None:
        self._page = page
        self._sound = b""
        self._with = ""
        page.add_init_script(_SCRIPT)
        page.route("**/sound-of-the-test", self._give)

    def _give(self, route: Route) -> None:
        route.fulfill(body=self._sound, content_type="audio/wav", headers={"X-With": self._with})

    def lay_on(self, samples: np.ndarray, after_s: float = 0.0, count: bool = False) -> None:
        """What is heard from the next time on, after a silence. `count`: the silence begins with the page's count."""
        whole = np.concatenate([np.zeros(int(after_s * RATE), np.float32), samples.astype(np.float32)])
        out = io.BytesIO()
        soundfile.write(out, whole, RATE, format="WAV", subtype="PCM_16")
        self._sound = out.getvalue()
        self._with = "count" if count else ""

    def fail(self, name: str | None) -> None:
        """As getUserMedia fails (Media Capture and Streams, W3C); None: it works again."""
        self._page.evaluate("(name) => { window.owlFault = name; }", name)

    def unplug(self) -> None:
        self._page.evaluate("window.owlTrack.dispatchEvent(new Event('ended'))")
