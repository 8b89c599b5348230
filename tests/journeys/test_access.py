"""Everybody can use every view: axe-core finds nothing in both themes, what is pressed is large enough, keys do the
main work. Sources: WCAG 2.2 (2.1.1 keyboard, 2.4.3 focus order, 2.5.8 target size) and axe-core's own rules."""

import pytest
from playwright.sync_api import expect

from tests.journeys.conftest import AXE, PATIENCE, STILL, judged
from tests.journeys.test_workers import Script
from tests.meshes import glb, quad
from tests.pictures import simple_set

# What axe-core cannot decide and people did, with the reason: rule, a part of what it says, why it is as it should be.
REVIEWED = [
    ("aria-valid-attr-value", "aria-controls", "names the list that is there once it is open (ARIA 1.2, combobox)"),
    ("aria-hidden-focus", "", "the ends of a dialog, which hand the focus back into it"),
    ("color-contrast", "pseudo element", "letters on a plate of their own, over a picture that has a frame"),
    ("color-contrast", "non-text", "an arrow between two pictures that are named"),
    ("color-contrast", "image node", "words over the surround, black or white by its brightness"),
    ("color-contrast", "overlap", "rows below the edge of a list that scrolls"),
    ("color-contrast", "obscured", "rows below the edge of a list that scrolls"),
    ("color-contrast", "no value", "a patch of colour, which has no words"),
    ("color-contrast", "1:1", "a patch of colour, which has no words"),
]
# WCAG 2.5.8: 24 by 24 CSS pixels; links in a line of text are excepted.
_SMALL = """() => [...document.querySelectorAll(
  "a[href], button, input:not([type=hidden]), [role=tab], [role=combobox], [role=slider], [role=separator]"
)].filter((one) => {
  const { width, height } = one.getBoundingClientRect();
  const inText = one.matches("a") && one.closest("p, li, td, th, .soft") && !one.matches(".p-button");
  return width && height && !inText && !one.closest(".p-hidden-accessible") && Math.min(width, height) < 23.9;
}).map((one) => `${one.outerHTML.slice(0, 120)} ${JSON.stringify(one.getBoundingClientRect())}`)"""


@pytest.fixture(scope="module")
def furnished(live, tmp_path_factory):
    """A project with sets, a finding, an undecided file, a master in use, a cast, a model and a patch of ground."""
    folder = tmp_path_factory.mktemp("in")
    simple_set(folder, "deck")
    simple_set(folder, "quay", seed=40)
    call = Script(live)
    slug = call("POST", "/projects", {"name": "Access"})["slug"]
    base = f"/projects/{slug}"
    intake = call("POST", f"{base}/intakes", {"name": "all"})["id"]
    for path in sorted(folder.rglob("*.png")):
        call.upload(f"{base}/intakes/{intake}/files", path.name, path.read_bytes())
    odd = next(folder.rglob("*.png"))
    call.upload(f"{base}/intakes/{intake}/files", "IMG_2041.png", odd.read_bytes())
    call("POST", f"{base}/intakes/{intake}/sort")
    master = call("POST", "/masters/begin", {"title": "Access floor"})["name"]
    call("POST", f"/masters/{master}/publish", {"note": "First"})
    cast = call("POST", f"{base}/materials", {"name": "Floor", "master": master})["id"]
    call("POST", f"{base}/grounds", {"name": "Marsh", "side": 128})
    call.upload(f"{base}/models", "boat.glb", glb(quad(slot="deck"), quad(slot="rope", at=2)))
    return slug, master, cast


def views(slug: str, master: str, cast: int) -> dict[str, str]:
    own = f"/p/{slug}"
    parts = ("targets", "layouts", "names", "formats", "budget", "licences", "models", "webhooks", "people")
    materials = (f"cast/{cast}", "library", "import", f"master/{master}", f"compare/{master}", f"write/{master}")
    return {
        "projects": "/",
        "glossary": "/glossary",
        "accounts": "/accounts",
        "server": "/server",
        "overview": own,
        **{
            name: f"{own}/{name}"
            for name in ("history", "intake", "library", "habit", "sets", "models", "ground", "deliveries")
        },
        **{f"rules {part}": f"{own}/rules/{part}" for part in parts},
        **{f"materials {part}": f"{own}/materials/{part}" for part in materials},
    }


def settle(page) -> None:
    """Nothing is loading, and no message is fading away."""
    expect(page.locator("h1").first).to_be_visible()
    expect(page.locator("[data-test=loading]")).to_have_count(0)
    expect(page.locator(".p-toast-message")).to_have_count(0)


# The class by which the theme is chosen (web/src/app/theme.ts): a view that is loaded already needs no second loading.
_DIM = "document.documentElement.classList.add('dim')"


def faults_of(page, theme: str = "light") -> list[str]:
    """Violations of any weight, what is undecided and not reviewed, and what is too small to be pressed. Of the dim
    theme only contrast is looked at: the rest is the same in both."""
    page.wait_for_function(STILL)  # colours that are still fading have another contrast
    page.evaluate(AXE.read_text())
    told = page.evaluate("axe.run({runOnly: ['color-contrast']})" if theme == "dim" else "axe.run()")
    found = [f"{one['id']}: {node['html'][:140]}" for one in told["violations"] for node in one["nodes"]]
    for one in told["incomplete"]:
        for node in one["nodes"]:
            said = " ".join(check["message"] for kind in ("any", "all", "none") for check in node[kind])
            if not any(rule == one["id"] and part in said for rule, part, _ in REVIEWED):
                found.append(f"undecided {one['id']}: {node['html'][:140]}: {said}")
    return found + page.evaluate(_SMALL)


def test_every_view_is_without_fault_in_both_themes(live, ada, furnished):
    page = ada
    page.add_init_script("localStorage.setItem('fair-texel-theme', 'light')")
    page.goto(f"{live.address}/p/{furnished[0]}/sets")
    judged(page, 2)
    faults = {}
    for name, path in views(*furnished).items():
        page.goto(live.address + path)
        settle(page)
        faults[name] = faults_of(page)
        page.evaluate(_DIM)
        faults[f"{name}, dim"] = faults_of(page, "dim")
    assert {name: found for name, found in faults.items() if found} == {}


@pytest.mark.parametrize("theme", ["light", "dim"])
def test_a_sets_page_and_what_opens_over_others_is_without_fault(live, ada, furnished, theme):
    page = ada
    page.add_init_script(f"localStorage.setItem('fair-texel-theme', '{theme}')")
    home = f"{live.address}/p/{furnished[0]}"
    faults = {}
    page.goto(f"{home}/sets")
    judged(page, 2)
    page.get_by_label("Select deck", exact=True).check()
    faults["selection"] = faults_of(page, theme)
    page.get_by_role("button", name="deck", exact=True).click()
    for key in ("", "e", "v", "p"):
        if key:
            page.keyboard.press(key)
        expect(page.locator("[data-ready=true], [data-test=packed-large]").first).to_be_visible()
        settle(page)
        faults[f"set {key}"] = faults_of(page, theme)
        if key:
            page.keyboard.press("Escape")
    page.goto(home)
    settle(page)
    for key, title in (("Control+k", "Go to anything"), ("?", "Keys")):
        page.keyboard.press(key)
        expect(page.get_by_role("dialog", name=title)).to_be_visible()
        faults[title] = faults_of(page, theme)
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)
    assert {name: found for name, found in faults.items() if found} == {}


_NAME = "() => { const one = document.activeElement; return one.getAttribute('aria-label') || one.innerText || '' }"


def tab_to(page, name: str) -> None:
    """Press Tab until the focus is on what is called so."""
    for _ in range(150):
        page.keyboard.press("Tab")
        if page.evaluate(_NAME).strip() == name:
            return
    raise AssertionError(f"Tab never comes to {name}")


def go_to(page, name: str) -> None:
    page.keyboard.press("Control+k")
    expect(page.get_by_role("dialog", name="Go to anything").get_by_role("combobox")).to_be_focused()
    page.keyboard.type(name)
    expect(page.get_by_role("option").first).to_contain_text(name)
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name=name)).to_be_visible()


def test_ten_main_actions_by_keys_alone(live, ada):
    page, keys = ada, ada.keyboard
    # 1 and 2: a project is made, and the sample folder taken in.
    tab_to(page, "New project")
    keys.press("Enter")
    expect(page.get_by_role("dialog", name="New project").get_by_label("Name")).to_be_focused()
    keys.type("By keys")
    sample = page.get_by_label("Take in the sample folder, to try things on")
    for _ in range(20):
        keys.press("Tab")
        if sample.evaluate("one => one === document.activeElement"):
            break
    keys.press("Space")
    expect(sample).to_be_checked()
    tab_to(page, "Make project")
    keys.press("Enter")
    expect(page.get_by_role("heading", name="By keys")).to_be_visible()
    # 3: to the sets; one is renamed, and that is undone.
    keys.press("Shift+T")
    expect(page.get_by_text("being checked", exact=True)).to_have_count(0)
    expect(page.locator('[data-set="BrassBell"]')).to_contain_text("1 error")
    keys.press("ArrowDown")
    keys.press("n")
    expect(page.get_by_label("New name")).to_be_focused()
    keys.press("Control+a")
    keys.type("Ship bell")
    keys.press("Enter")
    expect(page.locator('[data-set="Ship bell"]')).to_be_visible()
    # 4: undone.
    keys.press("z")
    expect(page.locator('[data-set="BrassBell"]')).to_be_visible()
    # 5: a map gets another role.
    keys.press("3")
    keys.press("Shift+Digit4")
    expect(page.locator('[data-set="BrassBell"]')).to_contain_text("can be delivered")
    # 6: a set is found and opened by the command field.
    go_to(page, "mooring_rope")
    # 7: a remedy is tried, looked at before and after, and applied.
    finding = page.locator("[data-check=direction_against_name]")
    expect(finding).to_be_visible()
    keys.press("h")
    expect(page.locator("[data-test=tried]")).to_be_visible()
    keys.press("Enter")
    expect(finding).to_have_count(0)
    # 8: the set on a surface, and back to the list.
    keys.press("v")
    expect(page.locator(".frame[data-ready=true]")).to_be_visible()
    keys.press("Escape")
    keys.press("Escape")
    expect(page.locator("[data-set]").first).to_be_visible()
    # 9: a finding is waived.
    go_to(page, "tidal-mud")
    banding = page.locator("[data-check=height_steps]")
    expect(banding).to_be_visible()
    tab_to(page, "Waive")
    keys.press("Enter")
    keys.type("It is never displaced.")
    keys.press("Enter")
    expect(page.get_by_text("Waived: It is never displaced.").first).to_be_visible()
    # 10: a delivery.
    keys.press("Shift+D")
    expect(page.get_by_role("button", name="Deliver 10 sets")).to_be_enabled()
    tab_to(page, "Deliver 10 sets")
    keys.press("Enter")
    expect(page.locator("[data-delivery='1'][data-state=done]")).to_be_visible(timeout=2 * PATIENCE)
