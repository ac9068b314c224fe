"""The Compare bay: one result minus another, in figures and on the model, and a value over several meshes."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from tests.bench.driving import CASES, figures, opened_in, settle, tab

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
        expect(meshes.get_by_label(name, exact=True)).to_be_checked(checked=taken)
    page.get_by_role("button", name="Plot", exact=True).click()
    expect(page.get_by_test_id("study-table")).to_contain_text("180")
    # What cannot be studied together says why, and leaves by the same tick.
    meshes.get_by_label("roof truss", exact=True).check()
    expect(page.get_by_role("alert").filter(has_text="has no step at t = 4 s")).to_be_visible()
    meshes.get_by_label("roof truss", exact=True).uncheck()
    expect(page.get_by_test_id("study-verdict")).to_contain_text("three are needed")
    page.keyboard.press("k")
    dialog = page.get_by_role("dialog")
    dialog.get_by_text("the meshes", exact=True).click()
    dialog.get_by_role("button", name="Keep", exact=True).click()
    expect(dialog).to_have_count(0)
    page.keyboard.press("9")
    expect(page.get_by_test_id("exhibit-curve").first).to_contain_text("Value over finer meshes")


def test_load_cases_are_combined_looked_at_and_said_to_govern(own_address: str, blank: Page) -> None:
    page = blank
    opened_in(page, own_address, "compare", CASES, "&drawer=cases&field=axial_force&step=0&governing=magnitude:part")
    expect(page.get_by_test_id("governs")).to_contain_text("heavy snow governs the whole")
    page.get_by_text("A new combination").click()
    form = page.get_by_test_id("combination-form")
    form.get_by_label("Name of the combination").fill("storm")
    form.get_by_label("Factor of dead load").fill("1")
    form.get_by_label("Factor of wind from the left").fill("4")
    form.get_by_role("button", name="Make the combination").click()
    settle(page)
    line = page.get_by_test_id("reading-line")
    expect(line).to_contain_text("at combination storm (9/9)")
    expect(page.get_by_test_id("combinations")).to_contain_text("1 x dead load + 4 x wind from the left")
    expect(page.get_by_test_id("governs")).to_contain_text("storm governs the whole")
    page.get_by_role("button", name="Show which on the model").click()
    settle(page)
    expect(page.get_by_test_id("core-key")).to_contain_text("governing case")
    expect(page.get_by_test_id("core-key")).to_contain_text("storm")
    page.reload()
    settle(page)
    expect(line).to_contain_text("case at which it is largest magnitude over")
    page.get_by_role("button", name="Remove combination storm").click()
    expect(page.get_by_test_id("governs")).to_contain_text("heavy snow governs the whole")


def test_a_factor_that_is_no_number_is_refused_and_what_was_typed_stays(own_address: str, blank: Page) -> None:
    page = blank
    opened_in(page, own_address, "compare", CASES, "&drawer=cases&field=axial_force&step=0")
    page.get_by_text("A new combination").click()
    form = page.get_by_test_id("combination-form")
    form.get_by_label("Name of the combination").fill("storm")
    form.get_by_label("Factor of dead load").fill("one")
    form.get_by_role("button", name="Make the combination").click()
    expect(page.get_by_text("is no step with a factor")).to_be_visible()
    expect(form.get_by_label("Factor of dead load")).to_have_value("one")


def test_results_stand_side_by_side_and_lines_are_added_and_taken_away(own_address: str, blank: Page) -> None:
    page = blank
    opened_in(page, own_address, "compare", LUG_FINE, "&drawer=table&step=8&field=stress&measure=von-mises")
    page.get_by_role("button", name="Start a table").click()
    table = page.get_by_test_id("side-by-side")
    expect(table).to_contain_text("highest von Mises of stress")
    for name in ("roof truss", "weather mast", "roof truss, load cases", "flexure B2"):
        tick = page.get_by_role("group", name="Results in the table").get_by_label(name, exact=True)
        tick.click()
        expect(tick).not_to_be_checked()
    expect(table.get_by_role("columnheader")).to_have_text(["quantity", "lug, coarse", "lug, fine", "spread", "stands apart"])
    page.get_by_label("Add a quantity").select_option("lowest von Mises of stress")
    expect(page.get_by_test_id("table-lines")).to_contain_text("lowest von Mises of stress")
    page.get_by_role("button", name="Remove quantity highest von Mises of stress").click()
    expect(table).not_to_contain_text("highest von Mises")
    settle(page)
    page.reload()
    expect(page.get_by_test_id("side-by-side")).to_contain_text("lowest von Mises of stress")


def test_two_bodies_that_are_bonded_do_not_sink_in_and_the_way_is_cleared_and_back(own_address: str, blank: Page) -> None:
    page = blank
    opened_in(page, own_address, "balance", LUG_FINE, "&drawer=contact&step=8&field=stress&measure=von-mises")
    expect(page.get_by_test_id("penetration-verdict")).to_have_text("No node of one lies inside the other.")
    way = page.get_by_test_id("the-way")
    way.get_by_role("button", name="Faces of").first.click()
    settle(page)
    assert "hide=" in page.url or "hidden=" in page.url
    way.get_by_role("button", name="As it was").click()
    settle(page)
    assert "hide=" not in page.url and "hidden=" not in page.url
