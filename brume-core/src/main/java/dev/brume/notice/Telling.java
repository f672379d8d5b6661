package dev.brume.notice;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/**
 * What one source says about notices: its channels and its rules. Immutable.
 *
 * @param channels in their order
 * @param rules in their order
 * @since 0.1.0
 */
public record Telling(List<Channel> channels, List<NoticeRule> rules) {
    /** Nothing is told. */
    public static final Telling NOTHING = new Telling(List.of(), List.of());

    /** The most channels, or rules, of one source. */
    public static final int MOST = 1000;

    /** Checks it: no name may be there twice, each rule asks for something and tells somebody. */
    public Telling {
        channels = List.copyOf(channels);
        rules = List.copyOf(rules);
        unique("channels", channels.stream().map(Channel::name).toList());
        unique("notices", rules.stream().map(NoticeRule::name).toList());
        rules.forEach(rule -> {
            if (rule.all().isEmpty()) {
                throw new IllegalArgumentException(
                        "notices: " + rule.name() + " asks for nothing (add tell: [failed])");
            }
            if (rule.to().isEmpty()) {
                throw new IllegalArgumentException("notices: " + rule.name() + " tells nobody (add to: [CHANNEL])");
            }
        });
    }

    private static void unique(String what, List<String> names) {
        Map<String, Integer> counts = new LinkedHashMap<>();
        names.forEach(name -> counts.merge(name, 1, Integer::sum));
        counts.forEach((name, count) -> {
            if (count > 1) {
                throw new IllegalArgumentException(what + ": " + name + " is there " + count + " times");
            }
        });
        if (names.size() > MOST) {
            throw new IllegalArgumentException(what + ": " + names.size() + " is more than " + MOST);
        }
    }

    /** {@return the same with one more channel} */
    public Telling with(Channel channel) {
        List<Channel> more = new ArrayList<>(channels);
        more.add(channel);
        return new Telling(more, rules);
    }

    /** {@return the same with one more rule} */
    public Telling with(NoticeRule rule) {
        List<NoticeRule> more = new ArrayList<>(rules);
        more.add(rule);
        return new Telling(channels, more);
    }

    /** {@return whether it says nothing} */
    public boolean isEmpty() {
        return channels.isEmpty() && rules.isEmpty();
    }
}
