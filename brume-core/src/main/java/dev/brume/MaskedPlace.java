package dev.brume;

import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * The value behind a name that is found in a text, and what stands in its place: in a document of JSON (also as a text within another), in YAML, XML,
 * a header, a query, the arguments of a command.
 *
 * @param from where the value begins
 * @param until where it ends, exclusive
 * @param instead what stands in its place
 */
record MaskedPlace(int from, int until, String instead) {
    /** What an authentication header begins with; the secret comes behind it. */
    private static final Set<String> SCHEMES =
            Set.of("basic", "bearer", "digest", "negotiate", "token", "apikey", "hmac", "signature");

    private static final String ENDS_WORD = ",;&)}]<>\"'";

    /** {@return the value of a name that stands at a place of a text; empty if it has none there} */
    static Optional<MaskedPlace> of(String text, int name, int end) {
        return Optional.ofNullable(new Finder(text, name, end).find());
    }

    /** Looks for the value of one name at one place. */
    private static final class Finder {
        private final String text;
        private final int name;
        private final int end;

        /** What the name stands in: a quote, with the backslashes before it where a document is a text within another. */
        private final String quote;

        Finder(String text, int name, int end) {
            this.text = text;
            this.name = name;
            this.end = end;
            this.quote = quoteBefore(name);
        }

        private String quoteBefore(int place) {
            if (place == 0 || !isQuote(text.charAt(place - 1))) {
                return "";
            }
            int from = place - 1;
            while (from > 0 && text.charAt(from - 1) == '\\') {
                from--;
            }
            return text.substring(from, place);
        }

        private static boolean isQuote(char at) {
            return at == '"' || at == '\'';
        }

        @Nullable
        MaskedPlace find() {
            boolean isQuoted = !quote.isEmpty() && text.startsWith(quote, end);
            int at = skipBlanks(isQuoted ? end + quote.length() : end);
            if (at < text.length() && (text.charAt(at) == ':' || text.charAt(at) == '=')) {
                return assigned(at, isQuoted);
            }
            if (at < text.length() && text.charAt(at) == '%') {
                return encoded(at);
            }
            if (name > 0 && text.charAt(name - 1) == '-' && at > end && at < text.length()) {
                return argument(at);
            }
            return isElement() ? element() : null;
        }

        // Separated by a colon or an equals sign.

        private @Nullable MaskedPlace assigned(int separator, boolean isQuoted) {
            int from = skipBlanks(separator + 1);
            boolean byColon = text.charAt(separator) == ':';
            if (byColon && !isQuoted && quote.isEmpty() && isBlock(from)) {
                int until = endOfBlock(from);
                return until > from ? new MaskedPlace(separator + 1, until, " " + Mask.STANDS_FOR) : null;
            }
            if (from == text.length() || text.charAt(from) == '\n' || text.charAt(from) == '\r') {
                return null;
            }
            String opening = quoteAt(from);
            if (!opening.isEmpty()) {
                return new MaskedPlace(from, endOfQuoted(from, opening), opening + Mask.STANDS_FOR + opening);
            }
            char first = text.charAt(from);
            if (first == '{' || first == '[') {
                String around = isQuoted ? quote : "\"";
                return new MaskedPlace(from, endOfNested(from), around + Mask.STANDS_FOR + around);
            }
            String around = isQuoted && byColon && quote.endsWith("\"") ? quote : "";
            return new MaskedPlace(from, endOfPlain(from, byColon, isQuoted), around + Mask.STANDS_FOR + around);
        }

        private int endOfPlain(int from, boolean byColon, boolean isQuoted) {
            if (!quote.isEmpty() && !isQuoted) {
                // The quotes are around name and value, as a header is given to a command.
                int close = text.indexOf(quote, from);
                return close < 0 ? endOfLine(from) : Math.min(close, endOfLine(from));
            }
            int word = endOfWord(from);
            boolean isScheme = SCHEMES.contains(text.substring(from, word).toLowerCase(Locale.ROOT));
            return byColon && !isQuoted && (isScheme || beginsLine()) ? endOfLine(from) : word;
        }

        /** Only white space and signs of lists and quotations are before it on its line. */
        private boolean beginsLine() {
            for (int at = name - 1; at >= 0 && text.charAt(at) != '\n'; at--) {
                if (" \t->*#|+<".indexOf(text.charAt(at)) < 0) {
                    return false;
                }
            }
            return true;
        }

        // Blocks of YAML.

        private boolean isBlock(int from) {
            int at = from;
            if (at < text.length() && (text.charAt(at) == '|' || text.charAt(at) == '>')) {
                at++;
                while (at < text.length() && "+-0123456789".indexOf(text.charAt(at)) >= 0) {
                    at++;
                }
                at = skipBlanks(at);
            }
            return at < text.length() && (text.charAt(at) == '\n' || text.startsWith("\r\n", at));
        }

        /** The end of the lines that follow and are indented more than the name is; its own line's end if there are none. */
        private int endOfBlock(int from) {
            int indent = indentOf(text.lastIndexOf('\n', name) + 1);
            int last = from;
            int line = endOfLine(from) + 1;
            while (line < text.length()) {
                int end = endOfLine(line);
                boolean isEmpty = text.substring(line, end).isBlank();
                if (!isEmpty && indentOf(line) <= indent) {
                    break;
                }
                last = isEmpty ? last : end;
                line = text.indexOf('\n', line) < 0 ? text.length() : text.indexOf('\n', line) + 1;
            }
            return last;
        }

        private int indentOf(int line) {
            int at = line;
            while (at < text.length()
                    && (text.charAt(at) == ' ' || text.charAt(at) == '\t' || text.charAt(at) == '-')) {
                at++;
            }
            return at - line;
        }

        // Other forms.

        private @Nullable MaskedPlace encoded(int at) {
            String sign = text.substring(at, Math.min(at + 3, text.length())).toUpperCase(Locale.ROOT);
            int from = at;
            if (sign.equals("%22")) {
                from += 3;
                sign = text.substring(from, Math.min(from + 3, text.length())).toUpperCase(Locale.ROOT);
            }
            if (!sign.equals("%3D") && !sign.equals("%3A")) {
                return null;
            }
            from += 3;
            int until = from;
            while (until < text.length()
                    && !Character.isWhitespace(text.charAt(until))
                    && ENDS_WORD.indexOf(text.charAt(until)) < 0
                    && !text.regionMatches(true, until, "%26", 0, 3)
                    && !text.regionMatches(true, until, "%2C", 0, 3)
                    && !text.regionMatches(true, until, "%7D", 0, 3)) {
                until++;
            }
            return until > from ? new MaskedPlace(from, until, Mask.STANDS_FOR) : null;
        }

        private @Nullable MaskedPlace argument(int from) {
            if (text.charAt(from) == '-' || text.charAt(from) == '\n') {
                return null;
            }
            String opening = quoteAt(from);
            return opening.isEmpty()
                    ? new MaskedPlace(from, endOfWord(from), Mask.STANDS_FOR)
                    : new MaskedPlace(from, endOfQuoted(from, opening), opening + Mask.STANDS_FOR + opening);
        }

        private boolean isElement() {
            int at = name - 1;
            while (at >= 0 && (Character.isLetterOrDigit(text.charAt(at)) || ":_.-".indexOf(text.charAt(at)) >= 0)) {
                at--;
            }
            boolean ownName = at == name - 1 || text.charAt(name - 1) == ':';
            return at >= 0 && text.charAt(at) == '<' && ownName;
        }

        private @Nullable MaskedPlace element() {
            int open = text.indexOf('>', end);
            boolean whole =
                    end < text.length() && (text.charAt(end) == '>' || Character.isWhitespace(text.charAt(end)));
            if (open < 0 || !whole || text.charAt(open - 1) == '/') {
                return null;
            }
            String closing = "</" + text.substring(text.lastIndexOf('<', name) + 1, end) + ">";
            int close = text.indexOf(closing, open);
            int until = close < 0 ? text.length() : close;
            return until > open + 1 ? new MaskedPlace(open + 1, until, Mask.STANDS_FOR) : null;
        }

        // Ends.

        private int skipBlanks(int from) {
            int at = from;
            while (at < text.length() && (text.charAt(at) == ' ' || text.charAt(at) == '\t')) {
                at++;
            }
            return at;
        }

        private int endOfLine(int from) {
            int end = text.indexOf('\n', from);
            end = end < 0 ? text.length() : end;
            return end > from && text.charAt(end - 1) == '\r' ? end - 1 : end;
        }

        private int endOfWord(int from) {
            int at = from;
            while (at < text.length()
                    && !Character.isWhitespace(text.charAt(at))
                    && ENDS_WORD.indexOf(text.charAt(at)) < 0
                    && text.charAt(at) != '\\') {
                at++;
            }
            return at;
        }

        /** {@return a quote that opens at a place, with the backslashes before it} */
        private String quoteAt(int from) {
            int at = from;
            while (at < text.length() && text.charAt(at) == '\\') {
                at++;
            }
            return at < text.length() && isQuote(text.charAt(at)) ? text.substring(from, at + 1) : "";
        }

        /** Where the same quote, with as many backslashes before it and no more, closes again. */
        private int endOfQuoted(int from, String opening) {
            int backslashes = opening.length() - 1;
            char sign = opening.charAt(backslashes);
            int run = 0;
            for (int at = from + opening.length(); at < text.length(); at++) {
                char here = text.charAt(at);
                if (here == sign && (backslashes == 0 ? run % 2 == 0 : run == backslashes)) {
                    return at + 1;
                }
                run = here == '\\' ? run + 1 : 0;
            }
            return text.length();
        }

        private int endOfNested(int from) {
            int depth = 0;
            int at = from;
            while (at < text.length()) {
                String opening = quoteAt(at);
                if (!opening.isEmpty()) {
                    at = endOfQuoted(at, opening);
                    continue;
                }
                char here = text.charAt(at);
                depth += here == '{' || here == '[' ? 1 : here == '}' || here == ']' ? -1 : 0;
                at++;
                if (depth == 0) {
                    return at;
                }
            }
            return text.length();
        }
    }
}
