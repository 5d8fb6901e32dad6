"""The thresholds of advice: changed in their sheet, kept, used at once, put back."""

from plain_stride.desk.dialogs.advice_sheet import AdviceSheet, kept_thresholds
from plain_stride.desk.settings import Settings
from plain_stride.hand.advice import Thresholds
from tests.desk.test_pulling_again import page


def sheet_of(window):
    return AdviceSheet(window.main_window, window.session.now.thresholds, window.main_window.preferences.use_thresholds)


def test_a_threshold_is_typed_kept_and_used_at_once(window, window_on, job_path):
    window.pull((10, 20), (100, 20))
    hand = page(window, "Hand")
    assert "beyond the wrist" not in hand._line.text()
    sheet = sheet_of(window)
    sheet.rows["long"].typed.emit("40 mm")
    window.settle()
    assert "beyond the wrist" in hand._line.text()
    assert kept_thresholds(Settings()).long == 40.0
    window.main_window.close()
    assert window_on(job_path).session.now.thresholds.long == 40.0


def test_wrong_figures_change_nothing_and_the_first_ones_come_back(window):
    sheet = sheet_of(window)
    for text in ("-1 mm", "much", "1e9"):
        sheet.rows["flat"].typed.emit(text)
        assert "stays as it was" in sheet.fault.text() and window.session.now.thresholds == Thresholds()
    sheet.rows["flat"].typed.emit("0,1 mm")
    assert window.session.now.thresholds.flat == 0.1 and "stays" not in sheet.fault.text()
    sheet._take(Thresholds())
    assert kept_thresholds(Settings()) == Thresholds()


def test_settings_that_cannot_be_read_count_as_not_set():
    settings = Settings()
    for kept in ("[]", "nonsense", '{"flat": "x"}', '{"flat": -3, "other": 1}'):
        settings.put("advice", kept)
        assert kept_thresholds(settings) == Thresholds()
