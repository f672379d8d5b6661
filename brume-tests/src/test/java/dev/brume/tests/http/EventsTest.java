package dev.brume.tests.http;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.Grant;
import dev.brume.Role;
import dev.brume.http.HttpLimits;
import dev.brume.memory.MemoryStore;
import dev.brume.tests.Stores;
import java.io.IOException;
import java.io.InputStream;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.net.http.HttpResponse.BodyHandlers;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Scanner;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** Events, as those are told who follow. */
class EventsTest {

    /** An event that was told. */
    private record Told(String id, String event, String data) {}

    /** Somebody who follows. */
    private static final class Follower implements AutoCloseable {
        private final HttpResponse<InputStream> response;
        private final BlockingQueue<Told> told = new LinkedBlockingQueue<>();
        private final Thread reader;

        private Follower(Web web, String path, Optional<String> last) throws IOException, InterruptedException {
            HttpRequest.Builder request = web.request("/api/v1/events" + path);
            last.ifPresent(id -> request.header("Last-Event-ID", id));
            response = HttpClient.newHttpClient().send(request.build(), BodyHandlers.ofInputStream());
            assertThat(response.statusCode()).isEqualTo(200);
            reader = new Thread(this::read);
            reader.start();
        }

        private void read() {
            try (Scanner lines = new Scanner(response.body(), StandardCharsets.UTF_8)) {
                String id = "";
                String event = "";
                while (lines.hasNextLine()) {
                    String line = lines.nextLine();
                    if (line.startsWith("id: ")) {
                        id = line.substring(4);
                    } else if (line.startsWith("event: ")) {
                        event = line.substring(7);
                    } else if (line.startsWith("data: ")) {
                        told.add(new Told(id, event, line.substring(6)));
                    }
                }
                told.add(new Told("", "END", ""));
            }
        }

        private Told next() throws InterruptedException {
            Told next = told.poll(30, TimeUnit.SECONDS);
            assertThat(next).as("nothing was told").isNotNull();
            return next;
        }

        /** The events up to one of a kind. */
        private List<Told> until(String event) throws InterruptedException {
            List<Told> all = new ArrayList<>();
            Told last = next();
            all.add(last);
            while (!last.event.equals(event)) {
                last = next();
                all.add(last);
            }
            return all;
        }

        @Override
        public void close() throws IOException {
            response.body().close();
            reader.interrupt();
        }
    }

    private static Follower follow(Web web, String path) throws IOException, InterruptedException {
        Follower follower = new Follower(web, path, Optional.empty());
        assertThat(follower.next().event).isEqualTo("ready");
        return follower;
    }

    private static List<String> kinds(List<Told> told) {
        return told.stream().map(Told::event).toList();
    }

    @Test
    void aRunIsToldFromItsOrderToItsEnd() throws Exception {
        try (Web web = Web.open().as(Role.OPERATOR);
                Follower follower = follow(web, "")) {
            web.post("/jobs/harbour/tide-tables/runs", Map.of("because", "x")).is(201);

            List<Told> told = follower.until("ENDED");
            assertThat(kinds(told)).contains("PLANNED", "CHANGED", "STARTED", "ENDED");
            assertThat(told.get(told.size() - 1).data).contains("\"outcome\":\"SUCCEEDED\"", "harbour/tide-tables");
        }
    }

    @Test
    void onlyWhatIsWantedAndMayBeSeenIsTold() throws Exception {
        try (Web web = Web.open()) {
            Web ferry = web.as(Grant.within(List.of("ferry"), Role.OPERATOR));
            try (Follower tenant = follow(ferry, "?tag=nightly");
                    Follower none = follow(ferry, "?namespace=harbour");
                    Follower ends = follow(web.as(Role.OPERATOR), "?kind=ENDED&job=ferry/dock-check")) {
                web.post("/jobs/harbour/tide-tables/runs", Map.of()).is(201);
                web.post("/jobs/ferry/dock-check/runs", Map.of()).is(201);

                assertThat(kinds(ends.until("ENDED"))).containsExactly("ENDED");
                assertThat(tenant.until("ENDED"))
                        .allSatisfy(each -> assertThat(each.data).contains("ferry/dock-check"));
                assertThat(none.told).isEmpty();
            }
        }
    }

    /** From one instance to another, whoever was away for a while is told each event once. */
    @ParameterizedTest
    @EnumSource(Stores.class)
    void whoComesBackIsToldWhatCameMeanwhileByAnyInstance(Stores stores) throws Exception {
        try (Stores.Shared shared = stores.shared();
                Web one = Web.over(
                        Brume.on(shared.store()).withoutLog().instance("quay-1").build());
                Web other = Web.over(
                        Brume.on(shared.store()).withoutLog().instance("quay-2").build())) {
            one.as(Role.OPERATOR);
            other.with(one.token());
            Follower first = follow(one, "?kind=PLANNED");
            List<String> ids = new ArrayList<>();
            for (int i = 0; i < 3; i++) {
                one.post("/jobs/harbour/tide-tables/runs", Map.of()).is(201);
                ids.add(first.next().id);
            }
            first.close();
            for (int i = 0; i < 4; i++) {
                other.post("/jobs/ferry/dock-check/runs", Map.of()).is(201);
            }

            try (Follower again = new Follower(other, "?kind=PLANNED", Optional.of(ids.get(2)));
                    Follower fromFirst = new Follower(one, "?kind=PLANNED", Optional.of(ids.get(0)))) {
                again.next();
                fromFirst.next();
                List<String> later = new ArrayList<>();
                for (int i = 0; i < 4; i++) {
                    later.add(again.next().id);
                }
                assertThat(later).doesNotHaveDuplicates().doesNotContainAnyElementsOf(ids);
                List<String> both = new ArrayList<>();
                for (int i = 0; i < 6; i++) {
                    both.add(fromFirst.next().id);
                }
                assertThat(both.subList(0, 2)).isEqualTo(ids.subList(1, 3));
                assertThat(both.subList(2, 6)).isEqualTo(later);
            }
        }
    }

    /** Whoever knows the last event there is, and comes where others follow since, hears of the next one, once. */
    @Test
    void whoKnowsTheLastEventJoinsThoseWhoCameLater() throws Exception {
        try (Web web = Web.over(Brume.on(new MemoryStore())
                        .withoutLog()
                        .instance("quay-1")
                        .build())
                .as(Role.OPERATOR)) {
            Follower first = follow(web, "?kind=CHANGED");
            web.post("/jobs/harbour/tide-tables/runs", Map.of()).is(201);
            String last = first.next().id;
            first.close();
            try (Follower others = follow(web, "?kind=CHANGED");
                    Follower again = new Follower(web, "?kind=CHANGED", Optional.of(last))) {
                again.next();
                web.post("/jobs/ferry/dock-check/runs", Map.of()).is(201);

                assertThat(again.next()).isEqualTo(others.next());
                web.post("/jobs/ferry/dock-check/runs", Map.of()).is(201);
                assertThat(again.next()).isEqualTo(others.next());
            }
        }
    }

    @Test
    void whoWasAwayForTooLongIsToldToLookAnew() throws Exception {
        try (Web web = Web.open();
                Follower follower = new Follower(web, "", Optional.of("7.1.1"))) {
            assertThat(follower.next().event).isEqualTo("ready");
            assertThat(follower.next().event).isEqualTo("reset");
            assertThat(web.send(web.request("/api/v1/events").header("Last-Event-ID", "x"))
                            .is(400)
                            .body())
                    .contains("expected EPOCH.NUMBER.INDEX");
        }
    }

    @Test
    void whoIsOutIsToldAndCutAndThereIsABoundOnStreams() throws Exception {
        try (Web web =
                Web.open(http -> http.limits(HttpLimits.USUAL.streams(1))).as(Role.VIEWER)) {
            String name = web.brume.history().tokens().get(0).name();
            try (Follower follower = follow(web, "")) {
                assertThat(web.get("/events").is(503).header("Retry-After")).isEqualTo("10");
                web.brume.orders("ines", "").revokeToken(name);

                assertThat(kinds(follower.until("END"))).contains("out");
            }
        }
    }

    @Test
    void anInstanceThatStopsSaysSo() throws Exception {
        Web web = Web.open();
        try (Follower follower = follow(web, "")) {
            web.close();
            assertThat(kinds(follower.until("END"))).contains("cut");
        }
    }
}
