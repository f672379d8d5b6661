package dev.brume.http.internal.draft;

import dev.brume.history.JobView;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * The version of a job that somebody saw, as tags of definitions say it (RFC 9110, 8.8.3).
 *
 * @param job its number
 * @param version the version
 */
public record Seen(long job, int version) {
    private static final Pattern TAG = Pattern.compile("\"(\\d{1,18})\\.(\\d{1,9})\"");

    /** {@return the version in force} */
    public static Seen of(JobView view) {
        return new Seen(view.row().id(), view.row().version());
    }

    /** {@return what a tag says; empty if it is none} */
    public static Optional<Seen> read(String tag) {
        Matcher matcher = TAG.matcher(tag);
        return matcher.matches()
                ? Optional.of(new Seen(Long.parseLong(matcher.group(1)), Integer.parseInt(matcher.group(2))))
                : Optional.empty();
    }

    /** {@return it as a tag} */
    public String tag() {
        return "\"" + job + "." + version + "\"";
    }
}
