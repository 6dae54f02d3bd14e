"""Accounts, productions, members: who may sign in, begin, add, and what they see."""

from uuid import uuid4

import pytest

from dynaface.core.errors import ConflictError, DeniedError, InputError, NotFoundError
from dynaface.services.people.manage_productions import add_member, begin_production, list_productions
from dynaface.services.people.sign_in import add_account, find_person, local_person, sign_in

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

    @pytest.mark.parametrize("password", ["", "short", "nine char"])
    def test_a_short_password_makes_no_account(self, base, name, password):
        with pytest.raises(InputError, match="10 letters"):
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

    def test_are_found_by_id(self, base, name):
        made = add_account(base.store, name, PASSWORD)
        assert find_person(base.store, made.id) == made
        assert find_person(base.store, str(uuid4())) is None


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
