package dev.brume.jdbc;

import dev.brume.spi.Share;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;

/**
 * The condition that a job is in a share. Buckets are written out, since they change only when an instance comes or goes. The remainder of
 * an id is no more to keep and no index to move: whoever looks passes over what is others' before it locks anything.
 */
final class ShareCondition {
    private ShareCondition() {}

    /** Returns the condition, beginning with {@code and}; adds its values. */
    static String of(Share share, List<Object> values) {
        if (share.isWhole()) {
            return "";
        }
        List<String> lanes = new ArrayList<>();
        new TreeMap<>(share.buckets()).forEach((lane, buckets) -> {
            if (!buckets.isEmpty()) {
                lanes.add("lane = ? and mod(id, " + Share.BUCKETS + ") in (" + joined(buckets) + ")");
                values.add(lane);
            }
        });
        return lanes.isEmpty() ? " and 1 = 0" : " and (" + String.join(" or ", lanes) + ")";
    }

    private static String joined(Set<Integer> buckets) {
        return buckets.stream().sorted().map(String::valueOf).collect(Collectors.joining(", "));
    }
}
