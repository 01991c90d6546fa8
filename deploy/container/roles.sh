#!/bin/sh
# Run once by the database's image: the owner of the tables, and the application's own role.
set -eu
psql -v ON_ERROR_STOP=1 -U postgres -v owner="$DB_OWNER" -v application="$DB_APPLICATION" <<'SQL'
CREATE ROLE dry_gauge_owner LOGIN PASSWORD :'owner';
CREATE ROLE dry_gauge LOGIN PASSWORD :'application';
CREATE DATABASE dry_gauge OWNER dry_gauge_owner;
SQL
