package dev.brume.cli;

import dev.brume.history.History;
import dev.brume.history.NoticeFilter;
import dev.brume.history.NoticeRow;
import dev.brume.history.NoticeState;
import java.time.Duration;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** Tries a channel. */
@Command(
        name = "test",
        mixinStandardHelpOptions = true,
        description =
                "Sends a sample to a channel and waits until it has arrived, or has not. It is sent by an instance that lives, or"
                        + " by whoever keeps vigil.")
final class NoticesTestCommand implements Callable<Integer> {
    private static final Duration PAUSE = Duration.ofMillis(200);

    @Parameters(paramLabel = "CHANNEL", description = "Its name in full, as 'brume notices channels' lists it.")
    private String channel;

    @Option(
            names = "--wait",
            paramLabel = "DURATION",
            defaultValue = "20s",
            description = "How long to wait for it; default: ${DEFAULT-VALUE}.")
    private Duration wait;

    @Mixin
    private OrderOptions options;

    @Mixin
    private OrderReport report;

    @Override
    public Integer call() {
        NoticeRow row = options.order(desk -> {
            String id = desk.sample(channel);
            report.meanwhile("sent notice " + id + " to " + channel);
            return waitFor(desk.history(), id);
        });
        String id = row.notice().id();
        if (row.state() == NoticeState.DELIVERED) {
            return report.done(
                    "it arrived"
                            + row.problem().map(remark -> ", but: " + remark).orElse(""),
                    "notice",
                    id,
                    "state",
                    row.state());
        }
        String why = row.problem()
                .orElse("nobody has tried to send it so far (is an instance alive that can, or 'brume vigil'?)");
        return report.notDone(
                row.state() == NoticeState.UNDELIVERED
                        ? "it was not taken: " + why
                        : "it has not arrived so far: " + why,
                "notice",
                id,
                "state",
                row.state());
    }

    private NoticeRow waitFor(History history, String id) {
        long until = System.nanoTime() + wait.toNanos();
        NoticeRow row = look(history, id);
        while (row.state() == NoticeState.WAITING && row.attempts() == 0 && System.nanoTime() - until < 0) {
            try {
                Thread.sleep(PAUSE.toMillis());
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                return row;
            }
            row = look(history, id);
        }
        return row;
    }

    private static NoticeRow look(History history, String id) {
        return history.notices(NoticeFilter.newest(1).of("sample " + id)).get(0);
    }
}
