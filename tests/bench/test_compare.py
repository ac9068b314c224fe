"""The Compare bay: one result minus another, in figures and on the model, and a value over several meshes."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from tests.bench.driving import figures, opened_in, settle, tab

LUG_FINE = 2


def test_two_results_are_held_against_each_other_and_a_link_reopens_it(own_address: str, blank: Page) -> None:
    page = blank
    opened_in(page, own_address, "compare", LUG_FINE, "&step=8&field=stress&measure=von-mises")
    page.get_by_role("combobox", name="The other result").select_option("lug, coarse")
    shown = page.get_by_test_id("difference-figures")
    expect(shown).to_contain_text("11.29 MPa")
    told = figures(page, "difference-figures")
    assert told["lowest"].startswith("−9.224") and told["RMS"].startswith("1.384")
    page.get_by_role("button", name="Show on the model").click()
    expect(page.get_by_test_id("reading-line")).to_contain_text("minus the same of lug, coarse")
    expect(page.get_by_test_id("ext-highest")).to_contain_text("11.29")
    settle(page)
    page.reload()
    expect(page.get_by_role("combobox", name="The other result")).to_have_value("1")
    expect(page.get_by_role("button", name="Show the result itself")).to_be_visible()
    page.get_by_role("button", name="Show the result itself").click()
    expect(page.get_by_test_id("reading-line")).not_to_contain_text("minus the same of lug")
    expect(shown).to_contain_text("11.29 MPa")


def test_two_meshes_are_proposed_and_are_not_enough(own_address: str, blank: Page) -> None:
    page = blank
    opened_in(page, own_address, "compare", LUG_FINE, "&step=8&field=stress&measure=von-mises")
    tab(page, "Meshes", "Compare")
    expect(page.get_by_test_id("study-verdict")).to_contain_text("three are needed")
    meshes = page.get_by_role("group", name="Meshes")
    for name, taken in (("lug, coarse", True), ("lug, fine", True), ("roof truss", False)):
        expect(meshes.get_by_label(name)).to_be_checked(checked=taken)
    page.get_by_role("button", name="Plot", exact=True).click()
    expect(page.get_by_test_id("study-table")).to_contain_text("180")
    # What cannot be studied together says why, and leaves by the same tick.
    meshes.get_by_label("roof truss").check()
    expect(page.get_by_role("alert").filter(has_text="has no step at t = 4 s")).to_be_visible()
    meshes.get_by_label("roof truss").uncheck()
    expect(page.get_by_test_id("study-verdict")).to_contain_text("three are needed")
    page.keyboard.press("k")
    dialog = page.get_by_role("dialog")
    dialog.get_by_text("the meshes", exact=True).click()
    dialog.get_by_role("button", name="Keep", exact=True).click()
    expect(dialog).to_have_count(0)
    page.keyboard.press("8")
    expect(page.get_by_test_id("exhibit-curve").first).to_contain_text("Value over finer meshes")
