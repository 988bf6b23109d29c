-- Once, by the database's administrator, in the database giusto. Neither role is a superuser.
create role giusto_owner login nosuperuser nocreatedb nocreaterole;
create role giusto_site login nosuperuser nocreatedb nocreaterole;
alter database giusto owner to giusto_owner;
alter schema public owner to giusto_owner;
revoke all on database giusto from public;
grant connect on database giusto to giusto_owner, giusto_site;
revoke create on schema public from public;
grant usage on schema public to giusto_site;
alter default privileges for role giusto_owner in schema public grant select, insert, update, delete on tables to giusto_site;
alter default privileges for role giusto_owner in schema public grant usage, select on sequences to giusto_site;
alter role giusto_site set idle_in_transaction_session_timeout = '60s';
-- Once the tables are there (./giusto host migrate):
-- revoke insert, update, delete on django_migrations from giusto_site;
-- revoke update, delete on joining_auditline from giusto_site;
