package dev.brume.internal.duty;

import dev.brume.Job;
import dev.brume.history.VersionKey;
import dev.brume.spi.Transaction;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.Map;
import java.util.Set;

/**
 * The definitions read lately. Versions never change, so nothing here grows stale within one session; a database that became
 * an older copy of itself may give the same numbers out again, so each session begins anew. Guarded by itself.
 */
public final class Definitions {
    /** About two kilobytes each: at most an eighth of the heap. */
    private static final long MOST = Math.max(20_000, Runtime.getRuntime().maxMemory() / 8 / 2048);

    private final Map<VersionKey, Job> known = new LinkedHashMap<>(16, 0.75f, /* accessOrder= */ true) {
        private static final long serialVersionUID = 1L;

        @Override
        protected boolean removeEldestEntry(Map.Entry<VersionKey, Job> eldest) {
            return size() > MOST;
        }
    };

    /** Forgets everything. */
    public synchronized void clear() {
        known.clear();
    }

    /** {@return the definitions of all the keys that can be read here, reading those that are not known yet} */
    public Map<VersionKey, Job> get(Transaction tx, Collection<VersionKey> keys) {
        Map<VersionKey, Job> found = new HashMap<>();
        Set<VersionKey> unknown = new LinkedHashSet<>();
        synchronized (this) {
            for (VersionKey key : keys) {
                Job job = known.get(key);
                if (job == null) {
                    unknown.add(key);
                } else {
                    found.put(key, job);
                }
            }
        }
        if (!unknown.isEmpty()) {
            Map<VersionKey, Job> read = tx.definitions(unknown);
            found.putAll(read);
            synchronized (this) {
                known.putAll(read);
            }
        }
        return found;
    }
}
