package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.history.Change;
import dev.brume.history.FeedEvent;
import dev.brume.history.FeedPage;
import dev.brume.history.FeedPosition;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.duty.Settings;
import dev.brume.internal.feed.FeedReader;
import dev.brume.jdbc.JdbcStore;
import dev.brume.spi.Store;
import dev.brume.spi.TimeSource;
import java.sql.Connection;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** Following what is committed on each database, while many write, from several instances and with broken connections. */
class FeedTest {
    private static final int WRITERS = 4;
    private static final int LINES = 150;

    private static FeedReader reader(Store store) {
        Settings settings = new Settings(
                "window", "host", 1, Map.of("main", 1), Duration.ofSeconds(30), Duration.ofSeconds(1), 100);
        return new FeedReader(new Instance(settings, store, TimeSource.system(), event -> {}));
    }

    private static Change line(String who, String text) {
        return Change.of("NOTED", who, "quay", text);
    }

    private static void write(JdbcStore store, String who) {
        for (int i = 0; i < LINES; i++) {
            String text = Integer.toString(i);
            store.transact(tx -> {
                tx.addChanges(List.of(line(who, text), line(who, text + " again")));
                return null;
            });
        }
    }

    /** Reads until nobody writes and nothing comes any more, from earlier places again and by readers of either store. */
    private static List<FeedEvent> follow(
            List<FeedReader> readers, FeedPosition begin, Random random, AtomicBoolean over) {
        List<FeedEvent> seen = new ArrayList<>();
        while (true) {
            if (!over.get() && random.nextInt(5) == 0) {
                int lost = random.nextInt(Math.min(20, seen.size() + 1));
                seen.subList(seen.size() - lost, seen.size()).clear();
            }
            FeedPosition position =
                    seen.isEmpty() ? begin : seen.get(seen.size() - 1).position();
            boolean wasOver = over.get();
            FeedPage page = readers.get(random.nextInt(readers.size())).read(position, 1 + random.nextInt(7));
            assertThat(page.reset()).as("at " + position).isFalse();
            seen.addAll(page.events());
            if (wasOver && page.events().isEmpty()) {
                return seen;
            }
        }
    }

    @ParameterizedTest
    @EnumSource
    void whoeverFollowsSeesEveryChangeOnceAndAllInOneOrder(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh()) {
            JdbcStore here = fresh.store();
            JdbcStore there = fresh.another();
            List<FeedReader> readers = List.of(reader(here), reader(there));
            FeedPosition begin = readers.get(0).begin();
            readers.get(1).begin();
            // Nobody wrote before, so nothing can be on its way that does not know of those who listen.
            fresh.sql("update " + fresh.table("brume_feed_head") + " set settles_at = null");
            AtomicBoolean over = new AtomicBoolean();
            List<CompletableFuture<List<FeedEvent>>> followers = List.of(
                    Threads.supply(() -> follow(readers, begin, new Random(1), over)),
                    Threads.supply(() -> follow(readers, begin, new Random(2), over)));
            List<CompletableFuture<Void>> writers = IntStream.range(0, WRITERS)
                    .mapToObj(i -> Threads.run(() -> write(i % 2 == 0 ? here : there, "w" + i)))
                    .toList();
            writers.forEach(CompletableFuture::join);
            over.set(true);

            List<FeedEvent> seen = followers.get(0).join();
            assertThat(followers.get(1).join()).isEqualTo(seen);
            Map<String, List<String>> byWriter = seen.stream()
                    .collect(Collectors.groupingBy(
                            event -> event.facts().get("who"),
                            Collectors.mapping(event -> event.facts().get("text"), Collectors.toList())));
            List<String> written = IntStream.range(0, LINES)
                    .boxed()
                    .flatMap(i -> List.of(i + "", i + " again").stream())
                    .toList();
            assertThat(byWriter).hasSize(WRITERS);
            byWriter.forEach((who, texts) -> assertThat(texts).as(who).isEqualTo(written));
        }
    }

    @ParameterizedTest
    @EnumSource(names = {"POSTGRESQL", "MARIADB"})
    void whatIsCommittedLateComesLateAndIsNotPassedOver(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh();
                Connection slow = fresh.connection()) {
            JdbcStore store = fresh.store();
            FeedReader reader = reader(store);
            FeedPosition begin = reader.begin();
            slow.setAutoCommit(false);
            store.join(slow, tx -> {
                tx.addChanges(List.of(line("slow", "first to write")));
                return null;
            });
            store.transact(tx -> {
                tx.addChanges(List.of(line("fast", "first to commit")));
                return null;
            });
            FeedPage early = reader.read(begin, 10);
            slow.commit();

            assertThat(early.events())
                    .extracting(event -> event.facts().get("text"))
                    .containsExactly("first to commit");
            assertThat(reader.read(early.next(), 10).events())
                    .extracting(event -> event.facts().get("text"))
                    .containsExactly("first to write");
        }
    }

    /** As while a cluster is upgraded: what a newer instance writes of a kind that this version has no name for does not hold it up. */
    @ParameterizedTest
    @EnumSource
    void whatANewerVersionTellsIsPassedOverByAnOlderOne(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh()) {
            JdbcStore store = fresh.store();
            FeedReader reader = reader(store);
            FeedPosition begin = reader.begin();
            for (String text : List.of("first", "newer", "last")) {
                store.transact(tx -> {
                    tx.addChanges(List.of(line("ines", text)));
                    return null;
                });
            }
            fresh.sql("update " + fresh.table("brume_feed")
                    + " set body = replace(body, 'CHANGED', 'FOGHORN') where body like '%newer%'");

            List<String> texts = new ArrayList<>();
            FeedPosition position = begin;
            FeedPage page = reader.read(position, 1);
            while (!page.next().equals(position)) {
                page.events().forEach(event -> texts.add(event.facts().get("text")));
                position = page.next();
                page = reader.read(position, 1);
            }
            assertThat(texts).containsExactly("first", "last");
            assertThat(page.reset()).isFalse();
        }
    }
}
