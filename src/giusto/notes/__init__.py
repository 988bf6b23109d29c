"""Notes played: the record, its checks and files, its way into drill time, its match to the part."""
