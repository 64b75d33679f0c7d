"""Forms of the people's room."""

from typing import Any

from django import forms
from django.contrib.auth.forms import SetPasswordMixin
from django.contrib.auth.validators import UnicodeUsernameValidator

from fellwind.people.models import Person


class JoinForm(SetPasswordMixin, forms.Form):  # type: ignore[type-arg]  # generic in its stubs only
    """A new account from a one-time link."""

    username = forms.CharField(
        max_length=40, label="Your name here", validators=[UnicodeUsernameValidator()]
    )
    password1, password2 = SetPasswordMixin.create_password_fields("Password", "Password again")

    def clean_username(self) -> str:
        """A name that nobody has yet."""
        name: str = Person.normalize_username(self.cleaned_data["username"])
        if Person.objects.filter(username__iexact=name).exists():
            raise forms.ValidationError("Somebody here has that name already; choose another.")
        return name

    def clean(self) -> dict[str, Any] | None:
        """A password that will do for that name."""
        self.validate_passwords()
        self.validate_password_for_user(Person(username=self.cleaned_data.get("username", "")))
        return super().clean()
