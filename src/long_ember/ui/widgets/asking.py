"""A dialog that holds work asks before it throws it away."""

from __future__ import annotations

from PySide6.QtWidgets import QDialog

__all__ = ["AskingDialog"]


class AskingDialog(QDialog):
    """Escape, its cross, *Leave it* and closing the window all ask first, where something would be lost."""

    def held(self) -> str:
        """What would be lost, as the subject of a sentence; "" for nothing."""
        return ""

    def may_go(self) -> bool:
        """Nothing is lost by leaving, or the person agrees."""
        from long_ember.ui.widgets.dialogs import agree  # loaded with the first question

        what = self.held()
        return not what or agree(self, "Throw it away?", f"{what} would be lost.", "Throw it away")

    def reject(self) -> None:
        """Leave, after asking."""
        if self.may_go():
            super().reject()
