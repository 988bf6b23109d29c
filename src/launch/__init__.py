"""Setting up and starting: Debian's packages, the database cluster, the web server, the tests."""
