"""The style sheet of what Qt paints itself: grounds, entries, lists, menus, scroll bars."""

from plain_stride.desk.look.theme import THEME


def style_sheet() -> str:
    """In the palette and the text size in use."""
    p = THEME.palette
    return (
        f"MainWindow, #notes, #notesInner, QScrollArea {{ background: {p.margin} }}"
        f"QLineEdit {{ background: {p.margin}; color: {p.text}; border: none; border-bottom: 1px solid {p.hair};"
        f" selection-background-color: {p.chosen}; selection-color: {p.margin} }}"
        f"QLineEdit:focus {{ border-bottom: 2px solid {p.chosen} }}"
        f"QScrollBar:vertical {{ background: {p.margin}; width: 8px; border: none }}"
        f"QScrollBar::handle:vertical {{ background: {p.hair}; min-height: 30px }}"
        "QScrollBar::add-line, QScrollBar::sub-line { height: 0 }"
        f"QListView {{ background: {p.margin}; color: {p.text}; border: 1px solid {p.hair}; outline: none }}"
        f"QListView:focus {{ border: 2px solid {p.chosen} }}"
        f"QListView::item {{ min-height: {THEME.px(24)}px; padding-left: 4px }}"
        f"QListView::item:selected {{ background: {p.wash}; color: {p.text} }}"
        f"PlaceList {{ border: none }} PlaceList:focus {{ border: 1px solid {p.chosen} }}"
        f"QMenu {{ background: {p.margin}; color: {p.text}; border: 1px solid {p.hair}; padding: 6px 0 }}"
        f"QMenu::item {{ padding: 6px 28px 6px 18px; min-width: 150px }}"
        f"QMenu::item:selected {{ background: {p.wash} }}"
        f"QMenu::item:disabled {{ color: {p.faint} }}"
        f"QToolTip {{ background: {p.margin}; color: {p.text}; border: 1px solid {p.hair} }}"
    )
