"""A photograph becomes a surface that repeats, all maps of its set alike."""

import re

import cv2
import numpy as np
from playwright.sync_api import expect

from tests.journeys.conftest import drop_folder, judged, start_project
from texel.files import write
from texel.image import Texels
from texel.roles import Transfer


def photograph(folder, side=256):
    """A colour and a height of one ground, brighter to the right, whose borders do not meet."""
    rng = np.random.default_rng(4)
    coarse = cv2.GaussianBlur(rng.random((side, side), np.float32), (0, 0), side / 40)
    relief = (coarse - coarse.min()) / np.ptp(coarse)
    fine = cv2.GaussianBlur(rng.random((side, side, 3), np.float32), (0, 0), 1)
    light = np.linspace(0.45, 1, side, dtype=np.float32)[None, :, None]
    colour = np.clip((0.25 + 0.4 * relief[:, :, None] + 0.5 * (fine - 0.5)) * light, 0, 1)
    folder.mkdir()
    write(Texels((colour * 255).astype(np.uint8), "rgb", Transfer.SRGB), folder / "shingle_basecolor.png")
    write(Texels((relief[:, :, None] * 65535).astype(np.uint16), "y", Transfer.LINEAR), folder / "shingle_height.png")


def test_a_photograph_is_made_to_repeat(live, ada, tmp_path):
    page = ada
    photograph(tmp_path / "in")
    start_project(page, "Tileable")
    drop_folder(page, tmp_path / "in")
    page.get_by_role("link", name="See the sets").click()
    judged(page, 1)
    page.get_by_role("button", name="shingle", exact=True).click()
    # The finding leads there, as the list of steps does.
    seam = page.get_by_role("article").filter(has_text="Seam at the border").first
    seam.get_by_role("button", name="Make the set tileable").click()
    dialog = page.get_by_role("dialog", name="Make shingle tileable")
    before, after = (dialog.locator("figure", has_text=word) for word in ("Before", "After"))
    expect(before).to_contain_text("Seam shows")
    expect(after).to_contain_text("No seam")
    # Only the right three quarters, by keys.
    corner = dialog.get_by_role("button", name="Upper left corner")
    for _ in range(5):
        corner.press("Shift+ArrowRight")
    expect(after).to_contain_text("192 × 256")
    expect(after).to_contain_text("No seam")
    dialog.get_by_role("button", name="Apply to all maps").click()
    expect(dialog).to_have_count(0)
    expect(page.get_by_text("2 maps made tileable")).to_be_visible()
    steps = page.get_by_role("list", name="Steps")
    expect(steps).to_contain_text("Crop and straighten")
    expect(steps).to_contain_text("Patch borders")
    page.get_by_role("button", name=re.compile("^Undo")).first.click()
    expect(steps).to_have_count(0)
