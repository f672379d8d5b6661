package dev.brume.internal.engine;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.IfBusy;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.memory.MemoryStore;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.Test;

/** Priorities within a lane, with one worker and always more urgent work than it can do. */
class LaneFairnessTest {
    private static final JobName URGENT = JobName.parse("urgent");
    private static final JobName PATIENT = JobName.parse("patient");

    private final BlockingQueue<String> started = new LinkedBlockingQueue<>();

    @Test
    void ofEightWorkersThatComeFreeOneTakesWhatHasWaitedLongest() throws Exception {
        try (Brume brume =
                Brume.on(new MemoryStore()).instance("quay-1").workers(1).build()) {
            brume.define(Job.named(PATIENT).priority(0).ifBusy(IfBusy.alongside(50)), run -> started.add("patient"));
            // Each that runs orders another, so that there are always some.
            brume.define(Job.named(URGENT).priority(9).ifBusy(IfBusy.alongside(50)), run -> {
                started.add("urgent");
                brume.orders("anna", "").runNow(URGENT);
            });
            for (int i = 0; i < 3; i++) {
                brume.orders("anna", "").runNow(PATIENT);
            }
            for (int i = 0; i < 5; i++) {
                brume.orders("anna", "").runNow(URGENT);
            }

            brume.start();

            List<String> seen = new ArrayList<>();
            for (int i = 0; i < 24; i++) {
                seen.add(started.poll(30, TimeUnit.SECONDS));
            }
            List<String> eight =
                    new ArrayList<>(List.of("urgent", "urgent", "urgent", "urgent", "urgent", "urgent", "urgent"));
            eight.add("patient");
            List<String> expected = new ArrayList<>(eight);
            expected.addAll(eight);
            expected.addAll(eight);
            assertThat(seen).isEqualTo(expected);
        }
    }
}
