package dev.brume.schedule;

/**
 * Reads a field that is written the plain way: values, names, ranges, steps, lists. Most are, and reading them so costs a
 * fraction; whatever else there is, right or wrong, is left to {@link CronFieldReader}.
 */
final class PlainField {
    private static final int NONE = -1;

    private final CronField field;
    private final String text;
    private int at;

    private PlainField(CronField field, String text) {
        this.field = field;
        this.text = text;
    }

    /** {@return the values of a field in upper case, as bits; 0 if it is not plain} */
    static long read(CronField field, String text) {
        PlainField reader = new PlainField(field, text);
        long bits = 0;
        while (true) {
            long item = reader.item();
            if (item == 0) {
                return 0;
            }
            bits |= item;
            if (reader.at == text.length()) {
                return bits;
            }
            if (text.charAt(reader.at++) != ',') {
                return 0;
            }
        }
    }

    private long item() {
        int first = field.min();
        int last = field.min() + field.size() - 1;
        if (take('*')) {
            int step = step();
            return step == NONE ? 0 : range(field, first, last, step);
        }
        int from = value();
        int to = from;
        boolean single = !take('-');
        if (!single) {
            to = value();
        }
        boolean stepped = at < text.length() && text.charAt(at) == '/';
        int step = step();
        if (from == NONE || to == NONE || step == NONE) {
            return 0;
        }
        return range(field, from, single && stepped ? Math.max(from, last) : to, step);
    }

    private boolean take(char wanted) {
        boolean there = at < text.length() && text.charAt(at) == wanted;
        at += there ? 1 : 0;
        return there;
    }

    /** A step if there is one, else 1. */
    private int step() {
        if (!take('/')) {
            return 1;
        }
        int step = number();
        return step >= 1 && step <= field.size() ? step : NONE;
    }

    private int value() {
        int number = number();
        if (number != NONE) {
            return number >= field.min() && number <= field.max() ? number : NONE;
        }
        if (at + 3 <= text.length()) {
            for (int i = 0; i < field.names().size(); i++) {
                if (text.startsWith(field.names().get(i), at)) {
                    at += 3;
                    return field.min() + i;
                }
            }
        }
        return NONE;
    }

    private int number() {
        int begin = at;
        int number = 0;
        while (at < text.length() && at - begin < 4 && text.charAt(at) >= '0' && text.charAt(at) <= '9') {
            number = number * 10 + text.charAt(at++) - '0';
        }
        return at == begin ? NONE : number;
    }

    /** The values of a range that wraps past the field's end when it runs backwards. */
    static long range(CronField field, int from, int to, int step) {
        int size = field.size();
        if (step == 1 && to >= from && to < field.min() + size) {
            return (2L << to) - (1L << from);
        }
        int length = to >= from ? to - from : to - from + size;
        if (to < from && from == 7 && field == CronField.DAY_OF_WEEK) {
            length = to;
        }
        long bits = 0;
        for (int i = 0; i <= length; i += step) {
            bits |= 1L << (field.min() + (from - field.min() + i) % size);
        }
        return bits;
    }
}
