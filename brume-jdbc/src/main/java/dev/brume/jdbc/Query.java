package dev.brume.jdbc;

import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Optional;

/** A condition that grows, each part with the values of its places. */
final class Query {
    private final StringBuilder text = new StringBuilder();
    private final List<Object> values = new ArrayList<>();

    /** Adds a part, and the values of its places. */
    Query and(String part, Object... its) {
        text.append(" and ").append(part);
        values.addAll(List.of(its));
        return this;
    }

    /** Adds a part with a single place, if there is a value for it. */
    Query and(String part, Optional<?> value) {
        value.ifPresent(found -> and(part, new Object[] {found}));
        return this;
    }

    /** Adds that a column is one of some. */
    Query in(String column, Collection<?> some) {
        if (some.isEmpty()) {
            return and("1 = 0");
        }
        List<?> padded = Statements.padded(List.copyOf(some));
        return and(column + " in " + Statements.places(padded.size()), padded.toArray());
    }

    /** Adds that a part holds for at least one of some values of its places. */
    Query either(String part, List<List<Object>> some) {
        if (some.isEmpty()) {
            return and("1 = 0");
        }
        some.forEach(values::addAll);
        text.append(" and (")
                .append(part)
                .append((" or " + part).repeat(some.size() - 1))
                .append(')');
        return this;
    }

    /** Adds all parts of another. */
    Query and(Query other) {
        text.append(other.text);
        values.addAll(other.values);
        return this;
    }

    /** {@return the values of all places} */
    Object[] values() {
        return values.toArray();
    }

    /** {@return some values, and those of all places behind them} */
    Object[] valuesAfter(Object... first) {
        List<Object> all = new ArrayList<>(List.of(first));
        all.addAll(values);
        return all.toArray();
    }

    /** {@return the values and one more} */
    Object[] valuesAnd(Object last) {
        List<Object> all = new ArrayList<>(values);
        all.add(last);
        return all.toArray();
    }

    @Override
    public String toString() {
        return text.toString();
    }
}
