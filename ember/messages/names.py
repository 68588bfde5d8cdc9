"""What a check and a finding are called on screens and in reports."""

from ember.basis.codes import CheckCode, FindingCode
from ember.messages.catalogue import words_of

checks = words_of("ember.messages.checks")
findings = words_of("ember.messages.findings")


def check_name(code: CheckCode) -> str:
    """A check by its name."""
    return checks(code)


def finding_name(code: FindingCode) -> str:
    """A finding by its name; one of the metering is called after its check."""
    if code in findings:
        return findings(code)
    return findings("metering", check=checks(code.removeprefix("metering_")))
