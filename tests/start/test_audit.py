"""What the services say of known faults, as each of them writes it."""

import pytest

from tools.check.audit import npm_faults, python_faults

FAULT = {"id": "PYSEC-2019-179", "fix_versions": ["0.12.3", "1.0"], "aliases": [], "description": "…"}


def test_faults_of_python_packages_are_named_with_what_mends_them():
    told = {
        "dependencies": [
            {"name": "flask", "version": "0.5", "vulns": [FAULT, FAULT | {"id": "X-1", "fix_versions": []}]},
            {"name": "numpy", "version": "2.0", "vulns": []},
            {"name": "ours", "skip_reason": "Dependency not found on PyPI and could not be audited: ours (1)"},
        ],
        "fixes": [],
    }
    assert python_faults(told) == (
        2,
        ["flask 0.5: PYSEC-2019-179, mended in 0.12.3, 1.0", "flask 0.5: X-1, mended in none"],
    )


def test_faults_of_npm_packages_are_named():
    told = {
        "auditReportVersion": 2,
        "vulnerabilities": {"lodash": {"name": "lodash", "severity": "high"}},
        "metadata": {"dependencies": {"total": 12}},
    }
    assert npm_faults(told) == (12, ["lodash: high"])


@pytest.mark.parametrize("told", [None, {"error": {"code": "ENOAUDIT"}}, {"message": "405", "statusCode": 405}])
def test_a_service_that_cannot_be_reached_has_looked_nothing_up(told):
    assert npm_faults(told) == (0, [])
    assert python_faults(told) == (0, [])
