"""How much of a request is taken in."""

from typing import Any

from django.core.exceptions import RequestDataTooBig
from django.core.files.uploadedfile import UploadedFile
from django.core.files.uploadhandler import FileUploadHandler

from tinfork.core.formats.script_text import check_size, decode
from tinfork.core.limits import MAX_BUNDLE_BYTES, MAX_SCRIPT_CHARACTERS, MAX_SOUND_BYTES

BESIDE_THE_FILE = 4 * MAX_SCRIPT_CHARACTERS + 100_000


class RefuseTooLarge(FileUploadHandler):
    """Refuses a request that says it is larger than any sound, or bundle, may be, before a byte of it is kept."""

    def handle_raw_input(self, input_data: Any, META: Any, content_length: int, *args: Any, **kwargs: Any) -> None:
        bundle = self.request is not None and self.request.path.startswith("/bundles/")
        if content_length > (MAX_BUNDLE_BYTES if bundle else MAX_SOUND_BYTES) + BESIDE_THE_FILE:
            raise RequestDataTooBig("The file is larger than any that may be sent here.")

    def receive_data_chunk(self, raw_data: bytes, start: int) -> bytes:
        return raw_data

    def file_complete(self, file_size: int) -> None:
        return None


def text_of(upload: "UploadedFile[Any]") -> str:
    """Return the text of an uploaded file. ScriptError when it is too large, or no text; it is not read then."""
    check_size(upload.size or 0)
    return decode(upload.read())
