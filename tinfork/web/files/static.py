"""What the browser loads, under names that change with their content, so that it is asked for once."""

from typing import ClassVar

from django.contrib.staticfiles.storage import HashedFilesMixin
from whitenoise.storage import CompressedManifestStaticFilesStorage


class HashedFiles(CompressedManifestStaticFilesStorage):  # type: ignore[misc]
    """Our own modules find one another under those names too; what others wrote names no other script."""

    patterns: ClassVar = (
        HashedFilesMixin.patterns[0],
        ("js/*.js", HashedFilesMixin._js_module_import_aggregation_patterns[1]),  # type: ignore[attr-defined]
    )
