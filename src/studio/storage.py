"""Static files under names that carry their hash, script modules included."""

from whitenoise.storage import CompressedManifestStaticFilesStorage


class HashedStorage(CompressedManifestStaticFilesStorage):
    """Whitenoise's storage, which also renames what a script module imports."""

    support_js_module_import_aggregation = True
