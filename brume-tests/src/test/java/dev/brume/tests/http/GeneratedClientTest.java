package dev.brume.tests.http;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Role;
import java.io.IOException;
import java.io.StringWriter;
import java.lang.reflect.Method;
import java.net.URL;
import java.net.URLClassLoader;
import java.net.http.HttpRequest;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.List;
import java.util.function.Consumer;
import java.util.stream.Stream;
import javax.tools.JavaCompiler;
import javax.tools.StandardJavaFileManager;
import javax.tools.ToolProvider;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** A client that a public generator has made of the description: it lists jobs, and runs one. */
class GeneratedClientTest {
    private static final Path SOURCES = Path.of("target/generated-client/src/main/java");

    @TempDir
    private Path classes;

    private void compile() throws IOException {
        JavaCompiler compiler = ToolProvider.getSystemJavaCompiler();
        StringWriter said = new StringWriter();
        try (StandardJavaFileManager files = compiler.getStandardFileManager(null, null, null);
                Stream<Path> sources = Files.walk(SOURCES)) {
            List<Path> all =
                    sources.filter(path -> path.toString().endsWith(".java")).toList();
            assertThat(all).isNotEmpty();
            boolean compiled = compiler.getTask(
                            said,
                            files,
                            null,
                            List.of(
                                    "-proc:none",
                                    "-nowarn",
                                    "-d",
                                    classes.toString(),
                                    "-classpath",
                                    System.getProperty("java.class.path")),
                            null,
                            files.getJavaFileObjectsFromPaths(all))
                    .call();
            assertThat(compiled).as(said.toString()).isTrue();
        }
    }

    /** Calls the method of a name that takes most, with what is given first and nothing for the rest. */
    private static Object call(Object api, String name, Object... first) throws ReflectiveOperationException {
        Method method = Arrays.stream(api.getClass().getMethods())
                .filter(each -> each.getName().equals(name))
                .filter(each -> each.getParameterCount() >= first.length)
                .min((one, other) -> Integer.compare(one.getParameterCount(), other.getParameterCount()))
                .orElseThrow();
        return method.invoke(api, Arrays.copyOf(first, method.getParameterCount()));
    }

    @Test
    void listsJobsAndRunsOne() throws Exception {
        compile();
        try (Web web = Web.open().as(Role.OPERATOR);
                URLClassLoader loader = new URLClassLoader(
                        new URL[] {classes.toUri().toURL()}, getClass().getClassLoader())) {
            Class<?> clientType = loader.loadClass("harbour.client.ApiClient");
            Object client = clientType.getConstructor().newInstance();
            clientType
                    .getMethod("updateBaseUri", String.class)
                    .invoke(client, web.uri("/api/v1").toString());
            Consumer<HttpRequest.Builder> token = request -> request.header("Authorization", "Bearer " + web.token());
            clientType.getMethod("setRequestInterceptor", Consumer.class).invoke(client, token);
            Object jobs = loader.loadClass("harbour.client.JobsApi")
                    .getConstructor(clientType)
                    .newInstance(client);

            List<?> listed = (List<?>) call(jobs, "listJobs");
            assertThat(listed).hasSize(2).first().asString().contains("ferry/dock-check");
            Class<?> requestType = loader.loadClass("harbour.client.model.RunNowRequest");
            Object request = requestType.getConstructor().newInstance();
            requestType.getMethod("setBecause", String.class).invoke(request, "the generator works");
            Object run = call(jobs, "runNow", "harbour", "tide-tables", null, null, request);
            assertThat(run.toString()).contains("BY_HAND", "harbour/tide-tables");
            assertThat(web.get("/changes?kind=RUN_ORDERED").body()).contains("the generator works");
            assertThat(web.get("/runs?job=harbour/tide-tables").list()).hasSize(1);
        }
    }
}
