package dev.brume.http.internal.draft;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;

/**
 * Two people's changes of one document, put together key by key: what only one of them changed is theirs.
 *
 * @param document both together; where both changed the same key, as mine has it
 * @param clashes the keys that both changed, each in another way
 */
record Merge(Map<String, Object> document, List<String> clashes) {

    static Merge of(Map<String, Object> base, Map<String, Object> mine, Map<String, Object> theirs) {
        Set<String> keys = new LinkedHashSet<>(theirs.keySet());
        keys.addAll(mine.keySet());
        keys.addAll(base.keySet());
        Map<String, Object> document = new LinkedHashMap<>();
        List<String> clashes = new ArrayList<>();
        for (String key : keys) {
            boolean iChanged = !Objects.equals(base.get(key), mine.get(key));
            boolean theyChanged = !Objects.equals(base.get(key), theirs.get(key));
            if (iChanged && theyChanged && !Objects.equals(mine.get(key), theirs.get(key))) {
                clashes.add(key);
            }
            Map<String, Object> from = iChanged ? mine : theirs;
            if (from.containsKey(key)) {
                document.put(key, from.get(key));
            }
        }
        return new Merge(document, clashes);
    }
}
