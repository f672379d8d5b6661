package dev.brume.tests.http;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.jr.ob.JSON;
import dev.brume.Brume;
import dev.brume.Grant;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.Role;
import dev.brume.definitions.JsonText;
import dev.brume.history.CauseRow;
import dev.brume.history.NoticeRow;
import dev.brume.memory.MemoryStore;
import dev.brume.notice.Channel;
import dev.brume.notice.Notice;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.NoticeRule;
import dev.brume.notice.Telling;
import dev.brume.notice.Trouble;
import dev.brume.notice.Way;
import io.swagger.v3.parser.OpenAPIV3Parser;
import io.swagger.v3.parser.core.models.ParseOptions;
import io.swagger.v3.parser.core.models.SwaggerParseResult;
import java.io.IOException;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import org.junit.jupiter.api.Test;

/** The description of all that can be asked for: that it is one, that its examples are answered, and that its roles hold. */
class DescriptionTest {
    private static final Set<Integer> GOOD = Set.of(200, 201, 204, 409);

    /** A request as the description has it as an example. */
    private record Example(
            String id, String method, String path, Object body, boolean document, String role, String where) {
        String in(String namespace) {
            return path.replace("/harbour/", "/" + namespace + "/");
        }
    }

    @SuppressWarnings("unchecked")
    private static <T> T at(Object map, String... names) {
        Object found = map;
        for (String name : names) {
            found = ((Map<String, Object>) found).get(name);
        }
        return (T) found;
    }

    private static List<Example> examples(Web web) {
        Map<String, Map<String, Map<String, Object>>> paths =
                at(web.get("/openapi.json").is(200).map(), "paths");
        List<Example> examples = new ArrayList<>();
        paths.forEach((path, methods) ->
                methods.forEach((method, operation) -> examples.add(example(path, method, operation))));
        return examples;
    }

    private static Example example(String path, String method, Map<String, Object> operation) {
        String filled = path;
        StringBuilder query = new StringBuilder();
        List<Map<String, Object>> parameters = at(operation, "parameters");
        for (Map<String, Object> parameter : parameters) {
            String name = at(parameter, "name");
            Object example = parameter.get("example");
            if (parameter.get("in").equals("path")) {
                filled = filled.replace("{" + name + "}", String.valueOf(example));
            } else if (name.equals("expression")) {
                query.append('?')
                        .append(name)
                        .append('=')
                        .append(URLEncoder.encode(example.toString(), StandardCharsets.UTF_8));
            }
        }
        Map<String, Map<String, Object>> content =
                operation.containsKey("requestBody") ? at(operation, "requestBody", "content") : Map.of();
        Object body = content.values().stream()
                .filter(each -> each.containsKey("example"))
                .findFirst()
                .map(each -> each.get("example"))
                .orElse(null);
        return new Example(
                at(operation, "operationId"),
                method.toUpperCase(Locale.ROOT),
                filled + query,
                body,
                content.containsKey("application/yaml"),
                at(operation, "x-role"),
                at(operation, "x-where"));
    }

    /** All that the examples are about. */
    private static Web world() {
        MemoryStore store = new MemoryStore();
        Brume brume = Brume.on(store)
                .withoutLog()
                .instance("quay-1")
                .poll(Duration.ofMillis(100))
                .build();
        Web web = Web.over(brume);
        brume.start();
        tell(brume, store);
        for (String job : List.of("harbour/bridge-closure", "harbour/notice-to-mariners", "ferry/tide-tables")) {
            web.brume.define(Job.named(job).handler("tide-tables").build());
        }
        web.brume
                .oneOffs()
                .add(OneOff.of(JobName.parse("harbour/bridge-closure"), "bridge-2027-05-14")
                        .at(Instant.parse("2099-05-14T06:00:00Z")));
        return web;
    }

    /** A cause that goes on, and a notice of it that nobody took. */
    private static void tell(Brume brume, MemoryStore store) {
        brume.tell(
                "harbour.yaml",
                Telling.NOTHING
                        .with(Channel.named("harbour/duty", new Way.Log()))
                        .with(NoticeRule.named("harbour/trouble")
                                .tell(NoticeKind.FAILED)
                                .to("duty")));
        String key = "failing harbour/tide-print";
        Instant at = Instant.parse("2026-11-30T06:00:00Z");
        Notice notice = new Notice(
                "4f9c1b7a02d84c0e9a3d5b6c7d8e9f00",
                key,
                "harbour/duty",
                NoticeKind.FAILED,
                Optional.of(JobName.parse("harbour/tide-print")),
                at,
                "harbour/tide-print failed",
                Map.of());
        store.transact(tx -> {
            tx.notices().write(List.of(CauseRow.begins(Trouble.FAILING, "harbour/tide-print", Optional.empty(), at)));
            tx.notices().addNotices(List.of(NoticeRow.waiting(notice, at, at).givenUp(at, "no")));
            return null;
        });
    }

    private static Web.Said send(Web web, Example example, String path) {
        return example.method.equals("GET")
                ? web.get(path)
                : web.send(example.method, path, example.body == null ? Map.of() : example.body);
    }

    @Test
    void theDescriptionIsOne() {
        try (Web web = Web.open()) {
            ParseOptions options = new ParseOptions();
            options.setResolve(true);
            SwaggerParseResult result = new OpenAPIV3Parser().readContents(web.http.description(), null, options);

            assertThat(result.getMessages()).isEmpty();
            assertThat(result.getOpenAPI().getOpenapi()).isEqualTo("3.1.0");
            assertThat(result.getOpenAPI().getPaths()).hasSizeGreaterThan(40);
            assertThat(examples(web)).extracting(Example::id).doesNotHaveDuplicates();
        }
    }

    /** So that generators and people have it without a server. To write it anew: -Dbrume.openapi=write. */
    @Test
    void theDescriptionThatIsKeptIsTheOneThatIsSaid() throws IOException {
        Path kept = Path.of("../docs/openapi.json");
        try (Web web = Web.open()) {
            String now = JsonText.pretty(JSON.std.mapFrom(web.http.description())) + "\n";
            if ("write".equals(System.getProperty("brume.openapi"))) {
                Files.writeString(kept, now);
            }
            assertThat(now).isEqualTo(Files.readString(kept));
        }
    }

    /** In the order in which they make sense: what is made before what is changed, what is dropped last. */
    @Test
    void everyExampleIsAnswered() {
        try (Web web = world().as(Role.ADMIN)) {
            String run = web.post("/jobs/harbour/tide-tables/runs", Map.of(), "Prefer", "wait=30")
                    .is(201)
                    .map()
                    .get("run")
                    .toString();
            List<String> later = List.of("DELETE", "PATCH");
            Map<String, Integer> said = new TreeMap<>();
            for (Example example : examples(web)) {
                if (example.id.equals("followEvents") || example.id.equals("renameJob")) {
                    continue;
                }
                String path = example.path.replaceFirst("^/runs/1\\b", "/runs/" + run);
                if (example.id.equals("readOutput") || later.contains(example.method)) {
                    continue;
                }
                said.put(example.id, send(web, example, path).status());
            }
            for (Example example : examples(web)) {
                if (later.contains(example.method)) {
                    said.put(example.id, send(web, example, example.path).status());
                }
            }
            assertThat(said).allSatisfy((id, status) -> assertThat(GOOD).as(id).contains(status));
        }
    }

    /** Every operation with every role, in its own namespace and in a foreign one. */
    @Test
    void everyRoleMayDoWhatItMayAndNothingElse() {
        for (Role role : Role.values()) {
            try (Web web = world()) {
                web.brume.orders("x", "").runNow(Web.TIDES);
                List<Example> examples = examples(web);
                String everywhere = web.as(role).token();
                String own = web.as(Grant.within(List.of("harbour"), role)).token();
                for (Example example : examples) {
                    if (example.id.equals("followEvents")) {
                        continue;
                    }
                    boolean high = role.includes(Role.valueOf(example.role.toUpperCase(Locale.ROOT)));
                    int all = send(web.with(everywhere), example, example.path).status();
                    assertThat(all)
                            .as(role + " everywhere: " + example.id)
                            .isNotEqualTo(401)
                            .isLessThan(500);
                    assertThat(all == 403)
                            .as(role + " everywhere: " + example.id + " said " + all)
                            .isEqualTo(!high);
                    int within = send(web.with(own), example, example.path).status();
                    boolean may = high && !example.where.equals("everywhere");
                    assertThat(within == 403)
                            .as(role + " of harbour: " + example.id + " said " + within)
                            .isEqualTo(!may);
                    if (example.where.equals("namespace")) {
                        assertThat(send(web, example, example.in("ferry")).status())
                                .as(role + " of harbour, in ferry: " + example.id)
                                .isEqualTo(404);
                    }
                }
            }
        }
    }
}
