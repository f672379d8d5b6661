package dev.brume.internal.document;

import dev.brume.SharedName;
import dev.brume.notice.Channel;
import dev.brume.notice.NoticeRule;
import dev.brume.notice.Telling;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** Reads and writes what a source says about notices. Stateless and safe for use by many threads. */
public final class TellingDocument {
    private TellingDocument() {}

    /** Writes it as {@link #read} reads it back; names are in full. */
    public static Map<String, Object> write(Telling telling) {
        Map<String, Object> channels = new LinkedHashMap<>();
        telling.channels().forEach(channel -> channels.put(channel.name(), ChannelDocument.write(channel)));
        Map<String, Object> rules = new LinkedHashMap<>();
        telling.rules().forEach(rule -> rules.put(rule.name(), NoticeRuleDocument.write(rule)));
        Map<String, Object> document = new LinkedHashMap<>();
        document.put("channels", channels);
        document.put("notices", rules);
        return document;
    }

    /**
     * Reads it; a channel or rule that this version does not understand is left out, since a newer version may have written it.
     *
     * @param problems receives why
     */
    public static Telling read(Map<String, Object> document, List<DocumentProblem> problems) {
        List<Channel> channels = new ArrayList<>();
        of(document, "channels").forEach((name, content) -> {
            String namespace = SharedName.isOfCluster(name) ? "main" : SharedName.namespaceOf(name);
            ChannelDocument.read(name, namespace, "channels/" + name, content, Optional.empty(), problems)
                    .ifPresent(channels::add);
        });
        List<NoticeRule> rules = new ArrayList<>();
        of(document, "notices")
                .forEach((name, content) -> NoticeRuleDocument.read(name, "notices/" + name, content, problems)
                        .ifPresent(rules::add));
        return new Telling(channels, rules);
    }

    private static Map<String, Object> of(Map<String, Object> document, String key) {
        Map<String, Object> named = new LinkedHashMap<>();
        if (document.get(key) instanceof Map<?, ?> map) {
            map.forEach((name, content) -> named.put((String) name, content));
        }
        return named;
    }
}
