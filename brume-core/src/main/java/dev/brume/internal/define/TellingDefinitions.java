package dev.brume.internal.define;

import dev.brume.DefinitionSet;
import dev.brume.Event;
import dev.brume.history.Change;
import dev.brume.history.TellingRow;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.notice.NoticeRules;
import dev.brume.internal.order.Edit;
import dev.brume.notice.Channel;
import dev.brume.notice.NoticeRule;
import dev.brume.notice.Telling;
import dev.brume.spi.NoticeHead;
import dev.brume.spi.Transaction;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.Function;
import java.util.stream.Collectors;

/** Puts channels and rules of notices in force. */
final class TellingDefinitions {
    private final Instance instance;

    TellingDefinitions(Instance instance) {
        this.instance = instance;
    }

    /**
     * Puts what a set says in force, in place of what its source has said before.
     *
     * @throws IllegalArgumentException if a rule tells a channel that there is not, or a channel has the name of another source's
     */
    void define(DefinitionSet set, Edit edit) {
        Optional<Telling> said = set.telling();
        if (said.isEmpty()) {
            return;
        }
        String source = set.sourceInFull();
        boolean isNew = instance.transact(tx -> {
            Optional<TellingRow> before = of(tx.notices().tellings(), source);
            return !said.get().equals(before.map(TellingRow::telling).orElse(Telling.NOTHING));
        });
        if (isNew && instance.transact(tx -> write(tx, source, said.get(), edit))) {
            instance.tell(
                    Event.Kind.DEFINED,
                    "notices of " + source + ": " + said.get().channels().size() + " channels, "
                            + said.get().rules().size() + " rules");
        }
    }

    private static Optional<TellingRow> of(List<TellingRow> rows, String source) {
        return rows.stream().filter(row -> row.source().equals(source)).findFirst();
    }

    private boolean write(Transaction tx, String source, Telling said, Edit edit) {
        tx.lockDefinitions();
        NoticeHead head = tx.notices().lock();
        List<TellingRow> rows = new ArrayList<>(tx.notices().tellings());
        Optional<TellingRow> before = of(rows, source);
        Telling was = before.map(TellingRow::telling).orElse(Telling.NOTHING);
        if (was.equals(said)) {
            return false;
        }
        rows.removeIf(row -> row.source().equals(source));
        check(said, source, rows);
        int number = before.map(TellingRow::number).orElse(0) + 1;
        TellingRow row = new TellingRow(source, number, said, tx.now().truncatedTo(ChronoUnit.MICROS));
        tx.notices().add(row);
        rows.add(row);
        List<NoticeRule> rules =
                rows.stream().flatMap(each -> each.telling().rules().stream()).toList();
        tx.notices().write(head.changed(NoticeRules.wants(rules)));
        List<Change> changes = new ArrayList<>();
        differences(
                "CHANNEL",
                named(was.channels(), Channel::name),
                named(said.channels(), Channel::name),
                source,
                edit,
                changes);
        differences(
                "NOTICES",
                named(was.rules(), NoticeRule::name),
                named(said.rules(), NoticeRule::name),
                source,
                edit,
                changes);
        tx.addChanges(changes);
        return true;
    }

    private static <T> Map<String, T> named(List<T> all, Function<T, String> name) {
        return all.stream().collect(Collectors.toMap(name, each -> each, (a, b) -> a, TreeMap::new));
    }

    private static <T> void differences(
            String kind, Map<String, T> was, Map<String, T> is, String source, Edit edit, List<Change> changes) {
        is.forEach((name, content) -> {
            if (!content.equals(was.get(name))) {
                changes.add(Change.of(
                        kind + "_DEFINED", edit.who(), edit.host(), name + " from " + source, edit.because()));
            }
        });
        was.keySet().stream()
                .filter(name -> !is.containsKey(name))
                .forEach(name -> changes.add(Change.of(
                        kind + "_DROPPED", edit.who(), edit.host(), name + " from " + source, edit.because())));
    }

    private static void check(Telling said, String source, List<TellingRow> others) {
        for (TellingRow other : others) {
            Set<String> names =
                    other.telling().channels().stream().map(Channel::name).collect(Collectors.toSet());
            said.channels().stream()
                    .map(Channel::name)
                    .filter(names::contains)
                    .findFirst()
                    .ifPresent(name -> {
                        throw new IllegalArgumentException("channels: " + name + " is defined by " + other.source()
                                + " already; give it another name in " + source);
                    });
        }
        Set<String> channels = others.stream()
                .flatMap(row -> row.telling().channels().stream())
                .map(Channel::name)
                .collect(Collectors.toSet());
        said.channels().forEach(channel -> channels.add(channel.name()));
        for (NoticeRule rule : said.rules()) {
            rule.to().stream()
                    .filter(name -> !channels.contains(name))
                    .findFirst()
                    .ifPresent(name -> {
                        throw new IllegalArgumentException("notices: " + rule.name() + " tells the channel '" + name
                                + "', which is not defined (define it: channels: {" + name + ": {log: true}})");
                    });
        }
    }
}
