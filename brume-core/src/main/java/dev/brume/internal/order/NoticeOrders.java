package dev.brume.internal.order;

import dev.brume.NotThereException;
import dev.brume.SharedName;
import dev.brume.history.CauseRow;
import dev.brume.history.NoticeRow;
import dev.brume.history.NoticeState;
import dev.brume.history.TellingRow;
import dev.brume.internal.duty.Instance;
import dev.brume.notice.Channel;
import dev.brume.notice.Notice;
import dev.brume.notice.NoticeKind;
import dev.brume.schedule.Durations;
import dev.brume.spi.NoticeSteps;
import dev.brume.spi.Transaction;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;

/** Acknowledges causes, sends again what was not delivered, and tries channels. Safe for use by many threads. */
public final class NoticeOrders {
    private static final Duration SHORTEST = Duration.ofMinutes(1);
    private static final int ID_LENGTH = 32;

    private final Instance instance;
    private final Orderer orderer;

    /** Creates the step. */
    public NoticeOrders(Instance instance, Orderer orderer) {
        this.instance = instance;
        this.orderer = orderer;
    }

    /** Silences a cause; returns it as it stands then. */
    public CauseRow acknowledge(String key, Optional<Duration> length) {
        length.ifPresent(given -> Durations.checked("for", given, SHORTEST, Durations.LONGEST));
        return instance.transact(tx -> {
            CauseRow cause = open(tx, key);
            Instant now = now(tx);
            CauseRow silenced = cause.silenced(
                    Optional.of(new CauseRow.Silence(orderer.who(), orderer.because(), now, length.map(now::plus))));
            tx.notices().write(List.of(silenced));
            tx.addChanges(List.of(orderer.change(
                    "ACKNOWLEDGED",
                    cause.jobName(),
                    key
                            + length.map(given -> ", for " + Durations.format(given))
                                    .orElse(", until it is over or changes"))));
            return silenced;
        });
    }

    /** Ends the silence of a cause; returns whether there was one. */
    public boolean speak(String key) {
        return instance.transact(tx -> {
            CauseRow cause = open(tx, key);
            if (cause.silence().isEmpty()) {
                return false;
            }
            tx.notices().write(List.of(cause.silenced(Optional.empty())));
            tx.addChanges(List.of(orderer.change("NOT_ACKNOWLEDGED", cause.jobName(), key)));
            return true;
        });
    }

    private static Instant now(Transaction tx) {
        return tx.now().truncatedTo(ChronoUnit.MICROS);
    }

    private static CauseRow open(Transaction tx, String key) {
        NoticeSteps steps = tx.notices();
        steps.lock();
        return Optional.ofNullable(steps.causes(List.of(key)).get(key))
                .filter(CauseRow::isOpen)
                .orElseThrow(() -> NotThereException.ofCause(key));
    }

    /** Has a notice that was not delivered sent again; returns it as it stands then. */
    public NoticeRow sendAgain(String id) {
        NoticeRow row = instance.transact(tx -> {
            NoticeRow found = tx.notices().lockNotice(id).orElseThrow(() -> NotThereException.ofNotice(id));
            if (found.state() != NoticeState.UNDELIVERED) {
                throw new IllegalArgumentException(
                        "notice " + id + " is " + found.state() + ", and only one that is UNDELIVERED is sent again");
            }
            Instant now = now(tx);
            Duration age = channels(tx).entrySet().stream()
                    .filter(entry -> entry.getKey().equals(found.notice().channel()))
                    .map(entry -> entry.getValue().giveUpAfter())
                    .findFirst()
                    .orElseThrow(() -> new IllegalArgumentException("notice " + id + ": there is no channel '"
                            + found.notice().channel() + "' any more"));
            NoticeRow again = found.again(now, now.plus(age));
            tx.notices().write(again);
            tx.addChanges(List.of(orderer.change(
                    "NOTICE_SENT_AGAIN",
                    found.notice().job(),
                    id + " to " + found.notice().channel() + ": "
                            + found.notice().title())));
            return again;
        });
        instance.wasNotable();
        return row;
    }

    private static Map<String, Channel> channels(Transaction tx) {
        Map<String, Channel> all = new java.util.LinkedHashMap<>();
        for (TellingRow row : tx.notices().tellings()) {
            row.telling().channels().forEach(channel -> all.putIfAbsent(channel.name(), channel));
        }
        return all;
    }

    /** Sends a sample to a channel; returns the notice. */
    public Notice sample(String channel) {
        String name = SharedName.parse(channel, "channel");
        Notice sample = instance.transact(tx -> {
            Channel to = Optional.ofNullable(channels(tx).get(name))
                    .orElseThrow(
                            () -> NotThereException.ofChannel(name, channels(tx).keySet()));
            Instant now = now(tx);
            String id = UUID.randomUUID().toString().replace("-", "").substring(0, ID_LENGTH);
            Notice notice = new Notice(
                    id,
                    "sample " + id,
                    name,
                    NoticeKind.SAMPLE,
                    Optional.empty(),
                    now,
                    "A sample, sent by " + orderer.who() + " to see whether this channel works",
                    Map.of("who", orderer.who(), "host", orderer.host()));
            tx.notices().addNotices(List.of(NoticeRow.waiting(notice, now, now.plus(to.giveUpAfter()))));
            tx.addChanges(List.of(orderer.change("CHANNEL_TRIED", Optional.empty(), name + ", notice " + id)));
            return notice;
        });
        instance.wasNotable();
        return sample;
    }
}
