package dev.brume.internal.telling;

import dev.brume.StoreException;
import dev.brume.history.NoticeRow;
import dev.brume.history.NoticeState;
import dev.brume.internal.duty.Instance;
import dev.brume.notice.Channel;
import dev.brume.notice.Notice;
import dev.brume.notice.RefusedException;
import dev.brume.notice.Sender;
import dev.brume.notice.Way;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.Executor;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Sends what was decided. A receiver that does not answer takes up the few places of its own channel, and nobody else's. Safe for use by many
 * threads.
 */
final class Outbox {
    private static final Logger LOG = LoggerFactory.getLogger(Outbox.class);

    /** Longer than a delivery may take, with room for telling the store what became of it. */
    static final Duration LEASE = Way.LONGEST.plusSeconds(30);

    private static final int MOST_OF_A_CHANNEL = 2;
    private static final int MOST = 16;
    private static final Duration FIRST_WAIT = Duration.ofSeconds(5);
    private static final Duration LONGEST_WAIT = Duration.ofMinutes(30);
    private static final int FACTOR = 3;
    private static final int LONGEST_PROBLEM = 900;

    private final Instance instance;
    private final List<Sender> senders;
    private final Executor executor;
    private final Runnable whenDone;
    private final String holder = UUID.randomUUID().toString();
    private final Map<String, Integer> going = new ConcurrentHashMap<>();

    /**
     * Creates it.
     *
     * @param executor carries deliveries out
     * @param whenDone is told when one has ended
     */
    Outbox(Instance instance, List<Sender> senders, Executor executor, Runnable whenDone) {
        this.instance = instance;
        this.senders = senders;
        this.executor = executor;
        this.whenDone = whenDone;
    }

    /** Begins to send what is due; returns how many deliveries it began. */
    int send(Collection<Channel> channels) {
        Map<String, Integer> together = new LinkedHashMap<>();
        Map<String, Channel> byName = new HashMap<>();
        Map<String, Sender> bySender = new HashMap<>();
        int free = MOST - going.values().stream().mapToInt(Integer::intValue).sum();
        for (Channel channel : channels) {
            Optional<Sender> sender =
                    senders.stream().filter(each -> each.sends(channel.way())).findFirst();
            if (sender.isPresent() && going.getOrDefault(channel.name(), 0) < MOST_OF_A_CHANNEL) {
                together.put(channel.name(), sender.get().together(channel.way()));
                byName.put(channel.name(), channel);
                bySender.put(channel.name(), sender.get());
            }
        }
        if (together.isEmpty() || free <= 0) {
            return 0;
        }
        List<NoticeRow> leased = instance.transact(tx -> {
            Instant until = tx.now().plus(LEASE);
            return tx.notices().lease(together, holder, until, free);
        });
        Map<String, List<NoticeRow>> batches = new LinkedHashMap<>();
        leased.forEach(row -> batches.computeIfAbsent(row.notice().channel(), name -> new ArrayList<>())
                .add(row));
        batches.forEach((name, rows) -> {
            going.merge(name, 1, Integer::sum);
            executor.execute(() -> deliver(byName.get(name), bySender.get(name), rows));
        });
        return batches.size();
    }

    private void deliver(Channel channel, Sender sender, List<NoticeRow> rows) {
        try {
            List<Notice> notices = rows.stream().map(NoticeRow::notice).toList();
            Result result = attempt(channel, sender, notices);
            settle(channel, rows, result);
        } catch (StoreException e) {
            // What became of it is not on record: it is sent again once the lease is over, under the same id.
            instance.tellProblem("what became of notices to " + channel.name() + " could not be written", e);
        } finally {
            going.merge(channel.name(), -1, Integer::sum);
            whenDone.run();
        }
    }

    /** How a delivery ended. */
    private record Result(boolean arrived, boolean refused, String text) {}

    private static Result attempt(Channel channel, Sender sender, List<Notice> notices) {
        try {
            return new Result(/* arrived= */ true, /* refused= */ false, sender.send(channel, notices));
        } catch (RefusedException e) {
            return new Result(/* arrived= */ false, /* refused= */ true, text(e));
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            return new Result(/* arrived= */ false, /* refused= */ false, "it was cut short");
        } catch (Exception | LinkageError | StackOverflowError | AssertionError e) {
            LOG.debug("a delivery to {} failed", channel.name(), e);
            return new Result(/* arrived= */ false, /* refused= */ false, text(e));
        }
    }

    private static String text(Throwable thrown) {
        String message = thrown.getMessage();
        String text = message == null ? thrown.getClass().getSimpleName() : message;
        String line = text.lines().findFirst().orElse("");
        return line.length() <= LONGEST_PROBLEM ? line : line.substring(0, LONGEST_PROBLEM) + "…";
    }

    private void settle(Channel channel, List<NoticeRow> rows, Result result) {
        List<NoticeRow> after = instance.transact(tx -> {
            Instant now = tx.now();
            List<NoticeRow> settled =
                    rows.stream().map(row -> after(row, result, now)).toList();
            tx.notices().settle(settled, holder);
            return settled;
        });
        after.stream()
                .filter(row -> row.state() == NoticeState.UNDELIVERED)
                .forEach(row -> instance.tellProblem("notice " + row.notice().id() + " ('"
                        + row.notice().title() + "') is kept as undelivered, " + channel.name() + " did not take it: "
                        + result.text));
    }

    private static NoticeRow after(NoticeRow row, Result result, Instant now) {
        if (result.arrived) {
            return row.delivered(now, Optional.of(result.text).filter(text -> !text.isEmpty()));
        } else if (result.refused) {
            return row.givenUp(now, result.text);
        }
        Instant next = now.plus(pause(row));
        return next.isAfter(row.giveUpAt()) ? row.givenUp(now, result.text) : row.failed(next, result.text);
    }

    /** Waits grow from 5 s to half an hour, somewhat differently for each notice, so that not all come back at once. */
    private static Duration pause(NoticeRow row) {
        double factor = Math.pow(FACTOR, Math.min(row.attempts(), 10));
        long most = Math.min((long) (FIRST_WAIT.toMillis() * factor), LONGEST_WAIT.toMillis());
        long spread = Math.floorMod(row.notice().id().hashCode() + row.attempts(), 200);
        return Duration.ofMillis(most * (1000 - spread) / 1000);
    }

    /** {@return whether nothing is being sent} */
    boolean idle() {
        return going.values().stream().allMatch(count -> count == 0);
    }
}
