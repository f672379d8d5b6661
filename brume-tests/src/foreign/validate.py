"""Validates YAML documents against a JSON Schema, prints one line each: SCHEMA DOCUMENT..."""
import json
import sys

import jsonschema
import yaml

schema = json.load(open(sys.argv[1], encoding="utf-8"))
jsonschema.Draft202012Validator.check_schema(schema)
validator = jsonschema.Draft202012Validator(schema)


class Loader(yaml.SafeLoader):
    """Dates are texts, as in YAML 1.2."""


Loader.yaml_implicit_resolvers = {
    key: [(tag, pattern) for tag, pattern in resolvers if tag != "tag:yaml.org,2002:timestamp"]
    for key, resolvers in yaml.SafeLoader.yaml_implicit_resolvers.items()
}
for path in sys.argv[2:]:
    document = yaml.load(open(path, encoding="utf-8"), Loader)
    errors = [error.message for error in validator.iter_errors(document)]
    print("valid" if not errors else "invalid: " + errors[0].replace("\n", " "))
