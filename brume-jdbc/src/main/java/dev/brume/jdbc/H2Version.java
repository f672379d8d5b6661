package dev.brume.jdbc;

import java.sql.Connection;
import java.sql.SQLException;
import java.util.Comparator;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/**
 * A version of H2, and whether it keeps an acknowledged commit when its process is killed.
 *
 * <p>That was found by trial, version by version, and is tried again at each build ({@code H2VersionsTest}): after every single commit the
 * file as it stands must open with that commit in it. The versions that lose commits write the head of the file before they
 * note the chunk that they have just written: when that chunk filled a gap, the head leads to the chunk before it and nothing leads on,
 * so that recovery stops there, until the head is written again some twenty commits later.
 *
 * @param number such as {@code 2.4.240}
 */
record H2Version(String number) {
    /** The version that this software brings and recommends. */
    static final String RECOMMENDED = "2.4.240";

    private static final Set<String> KEEPING = Set.of("2.3.230", "2.3.232", RECOMMENDED);
    private static final Set<String> LOSING = Set.of("2.5.250", "2.5.252");

    /** The results of a trial. */
    enum Verdict {
        /** No acknowledged commit was lost. */
        KEEPS,
        /** Acknowledged commits were lost. */
        LOSES,
        /** It was not tried. */
        UNTRIED
    }

    /** {@return the version on the class path of this process, which writes the files that this process opens} */
    static H2Version ofThisProcess() {
        try {
            // Read when it runs: as a constant it would be that of the compiler's class path.
            return new H2Version((String)
                    Class.forName("org.h2.engine.Constants").getField("VERSION").get(null));
        } catch (ReflectiveOperationException e) {
            return new H2Version("of an unknown number");
        }
    }

    /** {@return the version that writes the file behind a connection, be it in this process or a server's} */
    static H2Version of(Connection connection) throws SQLException {
        return new H2Version(
                connection.getMetaData().getDatabaseProductVersion().replaceAll("[ -].*", ""));
    }

    /** {@return the version with a build number, if it is one that loses commits} */
    static Optional<H2Version> losing(String build) {
        return LOSING.stream()
                .filter(number -> number.endsWith("." + build))
                .map(H2Version::new)
                .findFirst();
    }

    Verdict verdict() {
        if (KEEPING.contains(number)) {
            return Verdict.KEEPS;
        }
        return LOSING.contains(number) ? Verdict.LOSES : Verdict.UNTRIED;
    }

    /** {@return what to know about it, as a sentence without its end} */
    String words() {
        return switch (verdict()) {
            case KEEPS -> "H2 " + number + " keeps every commit when its process is killed";
            case LOSES -> "H2 " + number + " loses commits that it has acknowledged when its process is killed";
            case UNTRIED ->
                "H2 " + number + " was never tried: it is not known to keep every commit when its process is killed";
        };
    }

    /** {@return what to do about it} */
    static String wayOut() {
        return "put com.h2database:h2:" + RECOMMENDED + " on the class path (tried and found safe: " + tried() + ")";
    }

    private static String tried() {
        return KEEPING.stream().sorted(Comparator.naturalOrder()).collect(Collectors.joining(", "));
    }
}
