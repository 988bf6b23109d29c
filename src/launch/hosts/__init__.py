"""``./giusto drill hosts``: many hosts as network namespaces of one machine, killed in turn under players."""
