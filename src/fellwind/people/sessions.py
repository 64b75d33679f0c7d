"""Sessions in the database under the hash of their key: whoever reads the data, or a backup of
them, cannot sign in with what stands there.
"""

import hashlib
from typing import Any

from django.contrib.sessions.backends.db import SessionStore as DatabaseStore
from django.contrib.sessions.base_session import AbstractBaseSession

LENGTH = 40  # characters of the column


def hashed(key: str) -> str:
    """What is kept of a session's key."""
    return hashlib.sha256(key.encode()).hexdigest()[:LENGTH]


class SessionStore(DatabaseStore):
    """As Django's, with hashed keys."""

    def _get_session_from_db(self) -> Any:
        whole = self.session_key
        self._session_key = None if whole is None else hashed(whole)
        try:
            return super()._get_session_from_db()  # type: ignore[misc]  # the stubs leave it out
        finally:
            if self._session_key is not None:
                self._session_key = whole

    def exists(self, session_key: str) -> bool:
        """Whether there is a session of that key."""
        return super().exists(hashed(session_key))

    def create_model_instance(self, data: dict[str, Any]) -> AbstractBaseSession:
        """The row of this session."""
        row = super().create_model_instance(data)
        row.session_key = hashed(row.session_key)
        return row

    def delete(self, session_key: str | None = None) -> None:
        """End a session, this one where none is named."""
        key = self.session_key if session_key is None else session_key
        if key is not None:
            super().delete(hashed(key))
