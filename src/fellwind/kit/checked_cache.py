"""A cache in files that may be torn or damaged: what is not whole counts as not kept."""

import hashlib
import pickle
import zlib
from typing import IO

from django.core.cache.backends.filebased import FileBasedCache

_DIGEST = hashlib.sha256().digest_size


class CheckedCache(FileBasedCache):
    """Each file begins with the digest of what follows; one that does not match is a miss, and
    goes.
    """

    def _write_content(self, file: IO[bytes], timeout: float | None, value: object) -> None:
        expiry = pickle.dumps(self.get_backend_timeout(timeout), self.pickle_protocol)
        body = expiry + zlib.compress(pickle.dumps(value, self.pickle_protocol))
        file.write(hashlib.sha256(body).digest() + body)

    def _is_expired(self, f: IO[bytes]) -> bool:
        """Whether a file has had its time, or is not whole; it is deleted then."""
        digest, body = f.read(_DIGEST), f.read()
        if hashlib.sha256(body).digest() != digest:
            f.close()
            self._delete(f.name)  # type: ignore[attr-defined]  # the stubs leave it out
            return True
        f.seek(_DIGEST)
        return bool(super()._is_expired(f))  # type: ignore[misc]  # as above
