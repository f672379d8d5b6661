package dev.brume.insight.check;

import dev.brume.Job;
import dev.brume.notice.Channel;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.NoticeRule;
import dev.brume.notice.Telling;
import dev.brume.notice.Way;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

/**
 * What channels and rules of notices allow and will surprise people all the same. Stateless.
 *
 * @since 0.1.0
 */
public final class NoticeWarnings {
    private static final Pattern SECRET =
            Pattern.compile("(?i).*(secret|token|passw|pwd|key|credential|authorization|cookie).*");

    private NoticeWarnings() {}

    /**
     * {@return the warnings, by the key under which what they are about stands, such as {@code channels/duty}}
     *
     * @param jobs that are defined beside them
     */
    public static Map<String, List<String>> of(Telling telling, Collection<Job> jobs) {
        Map<String, List<String>> warnings = new LinkedHashMap<>();
        Set<String> told =
                telling.rules().stream().flatMap(rule -> rule.to().stream()).collect(Collectors.toSet());
        for (Channel channel : telling.channels()) {
            List<String> own = new ArrayList<>();
            if (!told.contains(channel.name())) {
                own.add("no rule here tells the channel " + channel.name());
            }
            inClear(channel.way())
                    .forEach(what -> own.add("the channel " + channel.name() + " has " + what
                            + " in clear; refer to it: ${env:NAME} or ${file:PATH}"));
            warnings.put("channels/" + channel.name(), own);
        }
        telling.rules().forEach(rule -> warnings.put("notices/" + rule.name(), never(rule, jobs)));
        warnings.values().removeIf(List::isEmpty);
        return warnings;
    }

    private static List<String> inClear(Way way) {
        List<String> clear = new ArrayList<>();
        if (way instanceof Way.Webhook hook) {
            hook.secret().filter(NoticeWarnings::isClear).ifPresent(secret -> clear.add("its secret"));
            hook.headers().forEach((name, value) -> {
                if (SECRET.matcher(name).matches() && isClear(value)) {
                    clear.add("the header " + name);
                }
            });
            if (hook.url().toLowerCase(Locale.ROOT).startsWith("http:")
                    && hook.secret().isEmpty()) {
                clear.add("what it posts, unsigned and");
            }
        } else if (way instanceof Way.Mail mail) {
            mail.password().filter(NoticeWarnings::isClear).ifPresent(password -> clear.add("the password"));
        }
        return clear;
    }

    private static boolean isClear(String text) {
        return !text.contains("${env:") && !text.contains("${file:");
    }

    private static List<String> never(NoticeRule rule, Collection<Job> jobs) {
        List<String> never = new ArrayList<>();
        Set<NoticeKind> all = rule.all();
        String ofCluster = all.stream()
                .filter(NoticeKind::isOfCluster)
                .map(NoticeKind::word)
                .collect(Collectors.joining(", "));
        if (!rule.isOfCluster() && !ofCluster.isEmpty()) {
            never.add(ofCluster + " concerns no job, and so never comes up in a rule of a namespace; name the rule /"
                    + rule.name().substring(rule.name().indexOf('/') + 1));
        }
        List<Job> concerned = jobs.stream()
                .filter(job -> rule.concerns(job.name(), Set.copyOf(job.tags())))
                .toList();
        boolean isOfOthers = rule.isOfCluster() || jobs.isEmpty();
        if (!rule.of().isAll() && concerned.isEmpty() && !isOfOthers) {
            never.add("the rule " + rule.name() + " concerns no job here: none has such a name or tag");
        } else if (!isOfOthers) {
            boolean deadlines = all.contains(NoticeKind.DEADLINE_AT_RISK) || all.contains(NoticeKind.DEADLINE_MISSED);
            if (deadlines && concerned.stream().allMatch(job -> job.endBy().isEmpty())) {
                never.add("the rule " + rule.name() + " asks for deadlines, and no job that it concerns states endBy");
            }
            if (all.contains(NoticeKind.SILENT)
                    && concerned.stream().allMatch(job -> job.successWithin().isEmpty())) {
                never.add("the rule " + rule.name()
                        + " asks for silence, and no job that it concerns states successWithin");
            }
        }
        return never;
    }
}
