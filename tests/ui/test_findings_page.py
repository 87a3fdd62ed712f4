"""All findings on a page of their own: shown, cured one by one and all of a kind, left and told again."""

import pytest
from PyQt6.QtCore import Qt

from rushweed.core.store.folder import Folder
from rushweed.ui.panels import findings_page
from rushweed.ui.panels.findings_page import Entry, FindingsPage
from tests.ui.conftest import Hands


@pytest.fixture
def page(hands: Hands) -> FindingsPage:
    hands.wait(lambda: any(f.rule == "missing-licence" for f in hands.session.checker.findings))
    hands.wait(lambda: any(f.rule == "grid-remainder" for f in hands.session.checker.findings))
    hands.press_widget(hands.window.findings.counts)
    made = hands.window.later.opened.findings
    assert made is not None and made.isVisible()
    return made


def choose(page: FindingsPage, rule: str) -> Entry:
    for number in range(page.list.count()):
        entry = page.list.item(number).data(Qt.ItemDataRole.UserRole)  # type: ignore[union-attr]
        if isinstance(entry, Entry) and entry.finding.rule == rule:
            page.list.setCurrentRow(number)
            return entry
    raise AssertionError(rule)


def heads(page: FindingsPage) -> list[str]:
    items = [page.list.item(n) for n in range(page.list.count())]
    return [i.text() for i in items if i is not None and i.data(Qt.ItemDataRole.UserRole) is None]


def test_every_finding_stands_under_its_stage_and_under_its_sheet(hands: Hands, page: FindingsPage) -> None:
    total = len(hands.session.checker.findings)
    assert [h.rpartition(",")[0] for h in heads(page)][:2] == ["Gather", "Cut"]
    assert sum(int(h.rpartition(", ")[2]) for h in heads(page)) == total
    page.way.show_value("part")
    page.refresh()
    assert "boardwalk.png, 1" in heads(page)
    assert sum(int(h.rpartition(", ")[2]) for h in heads(page)) == total
    assert not page.grab().isNull()


def test_enter_goes_to_the_place_and_the_cure_takes_it_off_the_list(hands: Hands, page: FindingsPage) -> None:
    hands.open_sheet("boardwalk.png", "paint")
    choose(page, "grid-remainder")
    hands.qtbot.keyClick(page.list, Qt.Key.Key_Return)
    assert hands.session.stage == "cut"
    before = page.list.count()
    hands.press_widget(page.fix_button)
    hands.wait(lambda: page.list.count() < before)
    assert hands.session.document.history.undo_label == "Call it waste"
    assert page.entry is not None, "the next one is chosen"
    hands.qtbot.keyClick(page, Qt.Key.Key_Escape)
    assert not page.isVisible()


def test_all_of_a_kind_are_cured_and_come_back_in_one_step(hands: Hands, page: FindingsPage) -> None:
    choose(page, "unused-sheet")
    sheets, alike = len(hands.session.project.sheets), len(page.like_it())
    assert alike > 1 and page.all_button.text() == f"All {alike} like it"
    hands.press_widget(page.all_button)
    assert len(hands.session.project.sheets) == sheets - alike
    hands.session.document.undo()
    assert len(hands.session.project.sheets) == sheets


def test_cures_of_a_kind_that_could_not_be_made_are_told(
    hands: Hands, page: FindingsPage, monkeypatch: pytest.MonkeyPatch
) -> None:
    choose(page, "unused-sheet")
    monkeypatch.setattr(
        findings_page, "cure_all", lambda project, _alike: (project, ["It is in use.", "So is it."])
    )
    hands.press_widget(page.all_button)
    notice = hands.window.notice
    assert notice.isVisible() and "2 cures could not be made: It is in use." in notice.words.text()
    assert not notice.grab().isNull()


def test_one_is_left_for_a_reason_and_told_again(hands: Hands, page: FindingsPage) -> None:
    total = len(hands.session.checker.findings)
    chosen = choose(page, "missing-licence").finding
    hands.press_widget(page.leave_button)
    assert "few words" in page.why.placeholderText() and not hands.session.project.left_alone
    hands.qtbot.keyClicks(page.why, "we drew it")
    hands.qtbot.keyClick(page.why, Qt.Key.Key_Return)
    hands.wait(lambda: len(hands.session.checker.findings) == total - 1)
    assert chosen.key not in {f.key for f in hands.session.checker.findings}
    assert "1 left" in page.count.text()
    hands.session.saver.save()
    hands.wait(lambda: not hands.session.saver.unsaved and not hands.session.saver.saving, 15_000)
    assert Folder(hands.session.folder.path).open().left_alone[0].why == "we drew it"
    page.way.show_value("left")
    page.refresh()
    entry = choose(page, "missing-licence")
    assert entry.why == "we drew it" and not page.grab().isNull()
    assert page.tell_button.isVisible() and not page.fix_button.isVisible()
    hands.press_widget(page.tell_button)
    hands.wait(lambda: len(hands.session.checker.findings) == total)
    assert page.list.count() == 0 and page.entry is None and not page.show_button.isVisible()
