"""A microphone for the page that plays what a test lays on it: another sound each time that it is opened, or a fault."""

from __future__ import annotations

import io

import numpy as np
import soundfile
from playwright.sync_api import Page, Route

from tests.conftest import RATE

_SCRIPT = """
window.owlFault = null;
navigator.mediaDevices.getUserMedia = async () => {
  if (window.owlFault) throw new DOMException('', window.owlFault);
  const answer = await fetch('/sound-of-the-test');
  const context = new AudioContext({ sampleRate: 44100 });
  const sound = await context.decodeAudioData(await answer.arrayBuffer());
  const out = context.createMediaStreamDestination();
  const source = context.createBufferSource();
  source.buffer = sound;
  source.connect(out);
  source.start();
  window.owlTrack = out.stream.getAudioTracks()[0];
  return out.stream;
};
"""


class Microphone:
    """Its sound begins when the page opens it."""

    def __init__(self, page: Page) -> None:
        self._page = page
        self._sound = b""
        page.add_init_script(_SCRIPT)
        page.route("**/sound-of-the-test", self._give)

    def _give(self, route: Route) -> None:
        route.fulfill(body=self._sound, content_type="audio/wav")

    def lay_on(self, samples: np.ndarray, after_s: float = 0.0) -> None:
        """What is heard from the next time on, after a silence."""
        whole = np.concatenate([np.zeros(int(after_s * RATE), np.float32), samples.astype(np.float32)])
        out = io.BytesIO()
        soundfile.write(out, whole, RATE, format="WAV", subtype="PCM_16")
        self._sound = out.getvalue()

    def fail(self, name: str | None) -> None:
        """As getUserMedia fails (Media Capture and Streams, W3C); None: it works again."""
        self._page.evaluate("(name) => { window.owlFault = name; }", name)

    def unplug(self) -> None:
        self._page.evaluate("window.owlTrack.dispatchEvent(new Event('ended'))")
