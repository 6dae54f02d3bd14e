"""Accounts, productions, members: who may sign in, begin, add, and what they see."""

from datetime import timedelta
from uuid import uuid4

import pytest
from sqlalchemy import func

from dynaface.core.errors import ConflictError, DeniedError, InputError, NotFoundError
from dynaface.services.people.manage_productions import add_member, begin_production, list_productions
from dynaface.services.people.sessions import (
    IDLE,
    LONGEST,
    begin_session,
    end_session,
    find_session,
    list_sessions,
)
from dynaface.services.people.sign_in import add_account, change_password, local_person, sign_in
from dynaface.store.tables.sessions import sessions

PASSWORD = "lamps on the harbour"


@pytest.fixture
def name():
    return f"Odo {uuid4().hex[:8]}"


class TestAccounts:
    def test_sign_in_with_their_password_only(self, base, name):
        made = add_account(base.store, name, PASSWORD)
        assert sign_in(base.store, name, PASSWORD).id == made.id
        for wrong in ("", PASSWORD + " ", PASSWORD.upper(), "x" * 5000):
            with pytest.raises(DeniedError):
                sign_in(base.store, name, wrong)

    def test_the_answer_does_not_say_whether_the_name_is_known(self, base, name):
        add_account(base.store, name, PASSWORD)
        said = []
        for who in (name, f"nobody {uuid4().hex}"):
            with pytest.raises(DeniedError) as refused:
                sign_in(base.store, who, "a wrong password")
            said.append(str(refused.value))
        assert said[0] == said[1]

    def test_the_password_is_not_kept(self, base, name):
        made = add_account(base.store, name, PASSWORD)
        assert PASSWORD not in made.password_hash
        assert made.password_hash.startswith("$argon2")

    @pytest.mark.parametrize("password", ["", "short", "eleven char"])
    def test_a_short_password_makes_no_account(self, base, name, password):
        with pytest.raises(InputError, match="12 to 200 letters"):
            add_account(base.store, name, password)
        with pytest.raises(DeniedError):
            sign_in(base.store, name, password)

    @pytest.mark.parametrize("bad", ["", "   ", "x" * 81])
    def test_a_name_has_one_to_eighty_letters(self, base, bad):
        with pytest.raises(InputError, match="1 to 80"):
            add_account(base.store, bad, PASSWORD)

    def test_a_name_is_had_once(self, base, name):
        add_account(base.store, name, PASSWORD)
        with pytest.raises(InputError, match="already"):
            add_account(base.store, name, "another password")
        assert sign_in(base.store, name, PASSWORD)

    def test_who_works_alone_has_no_password_to_sign_in_with(self, base):
        alone = local_person(base.store)
        assert local_person(base.store) == alone
        with pytest.raises(DeniedError):
            sign_in(base.store, alone.name, "")

    @pytest.mark.parametrize(
        "password", ["passwordpassword", "123456789012", "iloveyou12345", "qwertyuiop12", "aaaaaaaaaaaa"]
    )
    def test_a_password_that_is_guessed_first_makes_no_account(self, base, name, password):
        with pytest.raises(InputError, match="guessed first"):
            add_account(base.store, name, password)

    def test_nor_does_one_that_is_the_name(self, base, name):
        with pytest.raises(InputError, match="guessed first"):
            add_account(base.store, name, f"{name}12")

    def test_a_changed_password_ends_the_other_sessions(self, base, name):
        person = add_account(base.store, name, PASSWORD)
        here, elsewhere = (begin_session(base.store, person, "127.0.0.1", "a browser") for _ in range(2))
        with pytest.raises(DeniedError, match="old password"):
            change_password(base.store, person.id, "not it at all", "kelp above the tide", "")
        with pytest.raises(InputError, match="12 to 200"):
            change_password(base.store, person.id, PASSWORD, "short", "")
        assert find_session(base.store, elsewhere)
        change_password(base.store, person.id, PASSWORD, "kelp above the tide", find_session(base.store, here)[1])
        assert find_session(base.store, here)[0].id == person.id
        assert find_session(base.store, elsewhere) is None
        assert sign_in(base.store, name, "kelp above the tide").id == person.id
        with pytest.raises(DeniedError):
            sign_in(base.store, name, PASSWORD)


class TestSessions:
    def test_a_token_is_known_to_its_owner_alone(self, base, name):
        person = add_account(base.store, name, PASSWORD)
        token = begin_session(base.store, person, "10.0.0.9", "a browser")
        (listed,) = list_sessions(base.store, person.id)
        assert (listed.address, listed.agent) == ("10.0.0.9", "a browser")
        with base.store.unit() as unit:
            assert unit.sessions.find(token, IDLE, LONGEST) is None  # only its hash is kept
        assert find_session(base.store, token) == (person, listed.id)
        assert find_session(base.store, token + "x") is None

    def test_is_ended_by_its_owner_alone(self, base, name):
        person, other = (add_account(base.store, f"{name} {n}", PASSWORD) for n in range(2))
        token = begin_session(base.store, person, "", "")
        session = find_session(base.store, token)[1]
        for who in (other.id, str(uuid4())):
            with pytest.raises(NotFoundError):
                end_session(base.store, who, session)
        end_session(base.store, person.id, session)
        assert find_session(base.store, token) is None

    @pytest.mark.parametrize("column", ["seen", "begun"])
    def test_is_over_after_long_silence_and_in_any_case_at_last(self, base, name, column):
        person = add_account(base.store, name, PASSWORD)
        token = begin_session(base.store, person, "", "")
        long_ago = {column: func.now() - timedelta(seconds=(IDLE if column == "seen" else LONGEST) + 60)}
        with base.store.unit() as unit:
            unit.connection.execute(sessions.update().where(sessions.c.person == person.id).values(**long_ago))
        assert find_session(base.store, token) is None


class TestProductions:
    def test_belong_to_who_begins_them(self, mara):
        made = begin_production(mara, "  The Salt Lantern ")
        assert made.name == "The Salt Lantern"
        assert [(p.id, p.role) for p in list_productions(mara)] == [(made.id, "owner")]

    @pytest.mark.parametrize("bad", ["", "  ", "x" * 81])
    def test_have_a_name(self, mara, bad):
        with pytest.raises(InputError, match="1 to 80"):
            begin_production(mara, bad)
        assert list_productions(mara) == []

    def test_are_seen_by_members_only(self, mara, ivo, stranger, production):
        assert production in [p.id for p in list_productions(ivo)]
        assert list_productions(stranger) == []

    def test_take_members_by_name_once(self, base, mara, production, name):
        who = base.by(add_account(base.store, name, PASSWORD).id)
        add_member(mara, production, name)
        assert [(p.id, p.role) for p in list_productions(who)] == [(production, "member")]
        with pytest.raises(ConflictError, match="member already"):
            add_member(mara, production, name)

    def test_take_nobody_who_is_not_there(self, mara, production):
        with pytest.raises(NotFoundError, match="nobody here is named"):
            add_member(mara, production, "Nobody At All")

    def test_are_opened_to_others_by_owners_only(self, base, ivo, stranger, production, name):
        add_account(base.store, name, PASSWORD)
        with pytest.raises(DeniedError):
            add_member(ivo, production, name)
        with pytest.raises(NotFoundError):
            add_member(stranger, production, name)
        with pytest.raises(NotFoundError):
            add_member(stranger, "no id", name)
