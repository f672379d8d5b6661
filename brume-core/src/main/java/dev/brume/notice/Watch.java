package dev.brume.notice;

import dev.brume.history.History;
import java.time.Instant;
import java.util.List;
import java.util.Set;

/**
 * Looks for what does not happen by itself: lateness, silence, deadlines, lost instances. One process of all that could looks at a time. Confined to
 * one thread.
 *
 * @since 0.1.0
 */
@FunctionalInterface
public interface Watch {

    /**
     * Looks once.
     *
     * @param history of the store
     * @param now the database's clock
     * @param rules those that are in force
     */
    Looked look(History history, Instant now, List<NoticeRule> rules);

    /**
     * What was seen.
     *
     * @param seen what is so now; seeing it again changes nothing
     * @param lasting what it has looked for everywhere: causes of these troubles that were not seen are over
     */
    record Looked(List<Sighting> seen, Set<Trouble> lasting) {}
}
