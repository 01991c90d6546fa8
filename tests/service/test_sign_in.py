"""Sessions and tries, against the real functions in the database."""

from __future__ import annotations

from contextlib import suppress
from datetime import timedelta

import pytest
from sqlalchemy import text

from dry_gauge.core.errors import Refused
from dry_gauge.service.passwords import hash_password
from dry_gauge.service.sign_in import (
    TRIES_ANYWHERE,
    TRIES_PER_LOGIN,
    Caller,
    TooManyTries,
    change_own,
    network_of,
    sign_in,
    sign_out,
    token_hash,
    within_rate,
)
from dry_gauge.store.people import end_other_sessions, open_session, own_sessions, start_session
from tests.conftest import PASSWORD


def whose(engine, token):
    with engine.begin() as connection:
        return open_session(connection, token_hash(token))


def test_a_session_opens_its_own_shop_and_ends(engine, shop):
    token = sign_in(engine, f"  {shop.logins['lead'].upper()} ", PASSWORD, Caller("10.0.0.1"))
    someone = whose(engine, token)
    assert (someone.shop_id, someone.person_id, someone.role) == (shop.id, shop.people["lead"], "lead")
    assert someone.may_write
    sign_out(engine, token)
    sign_out(engine, token)  # twice does no harm
    assert whose(engine, token) is None


@pytest.mark.parametrize("password", ["", "rope and tide ", "x" * 10_000, "\x00"])
def test_only_the_right_password_opens(engine, shop, password):
    assert sign_in(engine, shop.logins["lead"], password, Caller("10.0.0.2")) is None


def test_an_unknown_login_is_answered_like_a_wrong_password(engine):
    assert sign_in(engine, "nobody-of-that-name", PASSWORD, Caller("10.0.0.3")) is None


def test_someone_who_left_comes_in_no_more(engine, owner, shop):
    token = sign_in(engine, shop.logins["technician"], PASSWORD, Caller("10.0.0.4"))
    with owner.begin() as connection:
        connection.execute(text("UPDATE person SET active = false WHERE id = :id"), {"id": shop.people["technician"]})
    assert whose(engine, token) is None
    assert sign_in(engine, shop.logins["technician"], PASSWORD, Caller("10.0.0.4")) is None


def test_an_expired_session_opens_nothing_and_is_swept(engine, owner, shop):
    with engine.begin() as connection:
        start_session(connection, token_hash("old"), shop.id, shop.people["lead"], timedelta(seconds=-1))
    assert whose(engine, "old") is None
    with owner.begin() as connection:
        connection.execute(text("INSERT INTO rate_window VALUES ('old', now() - interval '2 days', 3)"))
    sign_in(engine, shop.logins["lead"], PASSWORD, Caller("10.0.0.5"))
    with owner.begin() as connection:
        assert connection.execute(text("SELECT count(*) FROM web_session WHERE expires_at < now()")).scalar_one() == 0
        assert connection.execute(text("SELECT count(*) FROM rate_window WHERE key = 'old'")).scalar_one() == 0


def test_the_database_keeps_no_token_and_no_password(engine, owner, shop):
    token = sign_in(engine, shop.logins["lead"], PASSWORD, Caller("10.0.0.6"))
    with owner.begin() as connection:
        sessions = connection.execute(text("SELECT token_hash FROM web_session")).scalars().all()
        of_shop = text("SELECT password_hash FROM person WHERE shop_id = :shop")
        hashes = connection.execute(of_shop, {"shop": shop.id}).scalars().all()
    assert token.encode() not in sessions
    assert all(value.startswith("$argon2id$") for value in hashes)
    assert hash_password("a") != hash_password("a")  # salted


def test_guessing_one_login_is_stopped_where_it_comes_from_and_locks_nobody_out(make_shop, engine):
    target, other = make_shop(), make_shop()
    lead, known = target.logins["lead"], Caller("10.0.0.7", known_as="a browser of hers")
    with suppress(TooManyTries):
        for _ in range(2 * TRIES_PER_LOGIN + 1):  # a window of the clock may end in the middle of it
            assert sign_in(engine, lead, "guess", Caller("10.0.0.7")) is None
    with pytest.raises(TooManyTries):
        sign_in(engine, lead, PASSWORD, Caller("10.0.0.7"))
    # The same person at another address, or behind the same one with a browser that has signed in before, comes in.
    assert sign_in(engine, lead, PASSWORD, Caller("10.0.0.8"))
    assert sign_in(engine, lead, PASSWORD, known)
    assert sign_in(engine, other.logins["lead"], PASSWORD, Caller("10.0.0.7"))
    with suppress(TooManyTries):
        for number in range(2 * TRIES_ANYWHERE + 1):  # many addresses guess together
            sign_in(engine, lead, "", Caller(f"10.{number // 200}.{number % 200}.1"))
    with pytest.raises(TooManyTries):
        sign_in(engine, lead, PASSWORD, Caller("10.0.0.9"))
    assert sign_in(engine, lead, PASSWORD, known)


def test_a_version_6_address_counts_as_its_line():
    assert network_of("2001:db8:1:2::7") == network_of("2001:db8:1:2:ffff::1") != network_of("2001:db8:1:3::7")
    assert network_of("10.0.0.7") == "10.0.0.7"


def test_an_idle_session_ends_and_a_used_one_goes_on(engine, owner, shop):
    token = sign_in(engine, shop.logins["lead"], PASSWORD, Caller("10.0.0.5"))
    set_back = text("UPDATE web_session SET seen_at = now() - cast(:ago AS interval) WHERE token_hash = :hash")
    for ago, open_still in (("3 days 23 hours", True), ("4 days 1 minute", False)):
        with owner.begin() as connection:
            connection.execute(set_back, {"ago": ago, "hash": token_hash(token)})
        assert (whose(engine, token) is not None, whose(engine, token) is not None) == (open_still, open_still)


def test_a_rate_is_counted_by_key(engine):
    assert all(within_rate(engine, "test a", 5) for _ in range(5))
    assert not within_rate(engine, "test a", 5)
    assert within_rate(engine, "test b", 5)


def test_a_password_of_ones_own_ends_every_other_session(engine, shop):
    here, elsewhere = (sign_in(engine, shop.logins["technician"], PASSWORD, Caller("10.0.0.9")) for _ in range(2))
    colleague = sign_in(engine, shop.logins["lead"], PASSWORD, Caller("10.0.0.9"))
    for old, new, words in (
        ("guess", "kelp and driftwood", "not your current"),
        (PASSWORD, "short", "at least 10"),
        (PASSWORD, "aaaaaaaaaaaa", "try first"),
        (PASSWORD, "Test shop 2026", "try first"),
    ):
        with pytest.raises(Refused, match=words):
            change_own(engine, here, old, new, "Ida", "Test shop")
    assert whose(engine, elsewhere) is not None
    change_own(engine, here, PASSWORD, "kelp and driftwood", "Ida", "Test shop")
    assert [whose(engine, token) is not None for token in (here, elsewhere, colleague)] == [True, False, True]
    assert sign_in(engine, shop.logins["technician"], PASSWORD, Caller("10.0.0.9")) is None
    again = sign_in(engine, shop.logins["technician"], "kelp and driftwood", Caller("10.0.0.9"))
    with engine.begin() as connection:
        assert [one.is_this for one in own_sessions(connection, token_hash(here))].count(True) == 1
        assert len(own_sessions(connection, token_hash(here))) == 2
        assert end_other_sessions(connection, token_hash(here)) == 1
    assert whose(engine, again) is None
