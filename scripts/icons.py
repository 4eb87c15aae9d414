"""Draws the icons of the installed page (frontend/public) with Debian's Chromium: two nests as eyes, on paper."""

from __future__ import annotations

from pathlib import Path

from playwright.sync_api import sync_playwright

_PUBLIC = Path(__file__).resolve().parent.parent / "frontend" / "public"
_MARK = """
<g fill="#FFFCF6" stroke="#24564C" stroke-width="2"><circle cx="9" cy="9" r="7.5"/><circle cx="25" cy="9" r="7.5"/></g>
<g fill="#A8500F"><circle cx="10" cy="8" r="2.4"/><circle cx="24" cy="10" r="2.4"/></g>
"""
# A maskable icon keeps what matters within the middle four fifths (W3C, Web Application Manifest).
_KINDS = {"icon-192.png": (192, 0.72), "icon-512.png": (512, 0.72), "icon-maskable-512.png": (512, 0.56)}


def _drawing(size: int, share: float) -> str:
    width = size * share
    scale = width / 34
    left, top = (size - width) / 2, (size - 18 * scale) / 2
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{size}" height="{size}"><rect width="100%" height="100%" fill="#F5EFE3"/>'
        f'<g transform="translate({left} {top}) scale({scale})">{_MARK}</g></svg>'
    )


def main() -> None:
    _PUBLIC.mkdir(exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium-headless-shell", args=["--no-sandbox", "--disable-gpu"]
        )
        for name, (size, share) in _KINDS.items():
            page = browser.new_page(viewport={"width": size, "height": size})
            page.set_content(f'<body style="margin:0">{_drawing(size, share)}</body>')
            page.screenshot(path=_PUBLIC / name)
        browser.close()


if __name__ == "__main__":
    main()
