package dev.brume.examples;

import dev.brume.Brume;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.memory.MemoryStore;
import dev.brume.notice.Channel;
import dev.brume.notice.Notice;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.NoticeRule;
import dev.brume.notice.Telling;
import dev.brume.notice.Way;
import java.time.Duration;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeoutException;
import java.util.concurrent.atomic.AtomicBoolean;

/** Being told in code: of a printer that has no paper, however often it fails, once; and once that it is well again. */
public final class PrinterDuty {
    private static final JobName TIDE_PRINT = JobName.parse("harbour/tide-print");

    private PrinterDuty() {}

    /** Prints without paper twice, then with paper, and says what was told. */
    public static void main(String[] args) throws InterruptedException, TimeoutException {
        BlockingQueue<Notice> told = new LinkedBlockingQueue<>();
        AtomicBoolean paper = new AtomicBoolean();
        try (Brume brume =
                Brume.on(new MemoryStore()).withoutLog().instance("office").build()) {
            brume.receive("switchboard", told::add);
            brume.define(Job.named(TIDE_PRINT), run -> {
                if (!paper.get()) {
                    throw new IllegalStateException("no paper");
                }
            });
            brume.tell(
                    "office",
                    Telling.NOTHING
                            .with(Channel.named("harbour/duty", new Way.Code("switchboard")))
                            .with(NoticeRule.named("harbour/troubles")
                                    .tell(NoticeKind.FAILED)
                                    .to("duty")));
            brume.start();

            print(brume);
            print(brume);
            say(told.take());
            paper.set(true);
            print(brume);
            say(told.take());
        }
    }

    private static void print(Brume brume) throws InterruptedException, TimeoutException {
        brume.orders("mara", "the tides of tomorrow").runNow(TIDE_PRINT).await(Duration.ofMinutes(1));
    }

    private static void say(Notice notice) {
        System.out.println(notice.kind().word() + ": " + notice.title());
    }
}
