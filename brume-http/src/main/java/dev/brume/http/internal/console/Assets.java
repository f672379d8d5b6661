package dev.brume.http.internal.console;

import dev.brume.http.internal.web.Reply;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;

/** The files that pages use, all of which come from here. Safe for use by many threads. */
public final class Assets {
    private static final String PREFIX = "/assets/";
    private static final String SCRIPT = "text/javascript";
    private static final Map<String, String> TYPES = Map.ofEntries(
            Map.entry("console.css", "text/css"),
            Map.entry("uplot.min.css", "text/css"),
            Map.entry("console.js", SCRIPT),
            Map.entry("board.js", SCRIPT),
            Map.entry("job.js", SCRIPT),
            Map.entry("when.js", SCRIPT),
            Map.entry("define.js", SCRIPT),
            Map.entry("embed.js", SCRIPT),
            Map.entry("embedded.js", SCRIPT),
            Map.entry("htmx.min.js", SCRIPT),
            Map.entry("uplot.min.js", SCRIPT),
            Map.entry("mark.svg", "image/svg+xml"),
            Map.entry("htmx.LICENSE.txt", "text/plain"),
            Map.entry("uplot.LICENSE.txt", "text/plain"));

    private final Map<String, Reply> read = new ConcurrentHashMap<>();

    /** {@return the file that a path means; they are for everybody, as they tell nothing} */
    public Optional<Reply> file(String path) {
        return path.startsWith(PREFIX) && TYPES.containsKey(path.substring(PREFIX.length()))
                ? Optional.of(read.computeIfAbsent(path.substring(PREFIX.length()), Assets::read))
                : Optional.empty();
    }

    private static Reply read(String file) {
        try (InputStream in = Assets.class.getResourceAsStream("/dev/brume/http/console/" + file)) {
            return new Reply(
                    200,
                    TYPES.get(file),
                    Map.of(),
                    Optional.of(Objects.requireNonNull(in, file).readAllBytes()),
                    Optional.empty());
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
