"""Two people in two browsers: an invitation, a comment at a place, sent back, approved; the history tells."""

import pytest
from playwright.sync_api import expect

from remote.client import Studio, StudioRefuses
from tests.journeys.conftest import PATIENCE, taken_in, wait_for
from tests.journeys.test_workers import Script
from tests.pictures import simple_set

SECRET = "nine-gulls-over-the-quay"


@pytest.fixture
def bram(browser, live):
    """The page of somebody who is not signed in yet, in a browser of their own."""
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    context.add_init_script("localStorage.setItem('surface-detail', '0.25')")
    page = context.new_page()
    page.set_default_timeout(PATIENCE)
    yield page
    context.close()


def invited(ada, live, slug, name):
    """The link of an invitation that ada makes on the page."""
    ada.goto(f"{live.address}/p/{slug}/rules/people")
    ada.get_by_label("For whom (a note)").fill(name)
    ada.get_by_role("button", name="Make invitation link").click()
    return ada.locator("[data-test=link] .mono").inner_text()


def test_two_people_review_a_set_until_it_is_delivered(ada, bram, live, tmp_path):
    simple_set(tmp_path / "in", "deck")
    slug = taken_in(ada, "Reviewed", tmp_path / "in", 1)
    bram.goto(invited(ada, live, slug, "Bram"))
    expect(bram.get_by_role("heading", name="Join Reviewed")).to_be_visible()
    bram.get_by_label("Name").fill("bram-of-review")
    bram.get_by_label("New password").fill(SECRET)
    bram.get_by_role("button", name="Make account and join").click()
    expect(bram.get_by_role("link", name="Sets", exact=True)).to_be_visible()

    call = Script(live)
    (one,) = call("GET", f"/projects/{slug}/sets")["sets"]
    call("PUT", f"/projects/{slug}/approval", {"wanted": True})
    place = f"{live.address}/p/{slug}/set/{one['id']}"
    ada.goto(place)
    bram.goto(place)
    expect(ada.locator("[data-test=presence]")).to_contain_text("bram-of-review has this open")

    bram.get_by_role("button", name="Mark ready").click()
    expect(ada.locator("[data-test=review]")).to_have_attribute("data-state", "ready")

    if not ada.get_by_role("button", name="Mark a place").is_visible():
        ada.get_by_role("button", name="Comments").click()
    ada.get_by_role("button", name="Mark a place").click()
    expect(ada.locator(".frame[data-ready=true]")).to_be_visible()
    ada.locator("canvas").first.click(position={"x": 300, "y": 200})
    ada.get_by_label("Comment", exact=True).fill("@bram-of-review the seam shows here")
    ada.get_by_role("button", name="Add comment").click()
    expect(bram.locator("[data-pin]")).to_have_count(1)
    ada.get_by_role("button", name="Send back").click()
    ada.get_by_label("Say why it goes back").fill("The seam shows")
    ada.get_by_label("Say why it goes back").press("Enter")
    expect(bram.locator("[data-test=review]")).to_contain_text("Sent back by ada: The seam shows")
    bram.locator("[data-test=inbox]").click()
    expect(bram.get_by_text("ada sends deck back: The seam shows")).to_be_visible()
    bram.keyboard.press("Escape")

    plan = call("POST", f"/projects/{slug}/deliveries/plan", {"target": "orm-y-minus"})
    assert any("sent back" in problem for problem in plan["problems"])
    bram.get_by_role("button", name="Mark ready").click()
    ada.get_by_role("button", name="Approve").click()
    expect(bram.locator("[data-test=review]")).to_contain_text("Approved by ada")
    plan = call("POST", f"/projects/{slug}/deliveries/plan", {"target": "orm-y-minus"})
    assert not any("approv" in problem or "sent back" in problem for problem in plan["problems"])
    ada.goto(f"{live.address}/p/{slug}/deliveries")
    ada.get_by_role("button", name="Deliver 1 set").click()
    expect(ada.get_by_text("#1 ")).to_be_visible()
    delivered = f"/projects/{slug}/deliveries/1"
    wait_for(lambda: call("GET", delivered)["state"] == "done", 120, "the delivery")

    ada.goto(f"{live.address}/p/{slug}/history?about=sets:{one['id']}")
    for words in ("Approve deck", "Send deck back: The seam shows", "Mark deck ready"):
        expect(ada.locator("[data-line]").filter(has_text=words).first).to_be_visible()
    expect(ada.locator("[data-line]").filter(has_text="bram-of-review").first).to_be_visible()


def test_a_used_invitation_says_so_and_names_no_project(ada, bram, live):
    slug = Script(live)("POST", "/projects", {"name": "Once only"})["slug"]
    link = invited(ada, live, slug, "Somebody")
    ada.goto(link)
    ada.get_by_role("button", name="Join as ada").click()
    expect(ada.get_by_role("link", name="Sets", exact=True)).to_be_visible()
    bram.goto(link)
    expect(bram.get_by_role("alert")).to_contain_text("This link does not work")
    expect(bram.get_by_text("Once only")).to_have_count(0)


def test_somebody_signs_in_at_the_houses_own_provider_and_goes_on_where_they_were_going(bram, live, provider):
    provider.claims |= {"sub": "2002", "email": "nils@example.com", "preferred_username": "nils"}
    bram.goto(f"{live.address}/glossary")
    bram.get_by_role("button", name="Use the harbour's account").click()
    expect(bram.get_by_role("heading", name="Glossary")).to_be_visible()
    assert bram.url == f"{live.address}/glossary"
    assert bram.request.get(f"{live.address}/api/session").json()["name"] == "nils"


def test_a_token_is_made_on_the_page_used_by_a_script_and_revoked(ada, live, tmp_path):
    simple_set(tmp_path / "in", "deck", n=32)
    slug = taken_in(ada, "Tokens", tmp_path / "in", 1)
    ada.get_by_role("button", name="ada", exact=True).click()
    ada.get_by_role("menuitem", name="Account", exact=True).click()
    ada.get_by_label("What the token is for").fill("build machine")
    ada.get_by_role("button", name="Make token").click()
    token = ada.locator("[role=dialog] .p-message .mono").inner_text()
    studio = Studio(live.address, token)
    assert [row["name"] for row in studio.sets(slug)] == ["deck"]
    ada.get_by_role("button", name="Revoke build machine").click()
    expect(ada.get_by_role("button", name="Revoke build machine")).to_have_count(0)
    with pytest.raises(StudioRefuses) as refused:
        studio.sets(slug)
    assert refused.value.status == 401
