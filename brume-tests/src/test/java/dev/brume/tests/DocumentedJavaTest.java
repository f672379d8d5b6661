package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.StringWriter;
import java.net.URI;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import javax.tools.DiagnosticCollector;
import javax.tools.JavaCompiler;
import javax.tools.JavaFileObject;
import javax.tools.SimpleJavaFileObject;
import javax.tools.ToolProvider;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Each piece of Java in the documentation compiles, given what a reader would take for granted. */
class DocumentedJavaTest {
    private static final Pattern JAVA = Pattern.compile("```java\n(.*?)```", Pattern.DOTALL);
    private static final String IMPORTS = """
            import dev.brume.*;
            import dev.brume.history.*;
            import dev.brume.insight.doctor.*;
            import dev.brume.insight.health.*;
            import dev.brume.micrometer.*;
            import dev.brume.otel.*;
            import dev.brume.spi.*;
            import dev.brume.examples.*;
            import dev.brume.http.*;
            import dev.brume.jdbc.*;
            import dev.brume.memory.*;
            import dev.brume.schedule.*;
            import dev.brume.notice.*;
            import dev.brume.testkit.*;
            import com.zaxxer.hikari.HikariDataSource;
            import io.micrometer.core.instrument.MeterRegistry;
            import io.opentelemetry.api.OpenTelemetry;
            import java.nio.file.Path;
            import java.sql.*;
            import java.time.*;
            import java.util.*;
            import javax.sql.DataSource;
            import org.junit.jupiter.api.*;
            import org.junit.jupiter.api.extension.ExtendWith;
            """;
    private static final String GIVEN = """
            static Path folder;
            static DataSource dataSource;
            static Connection connection;
            static Instant at, from, until;
            static JobName job;
            static Properties properties;
            static DayCalendar officeDays, feasts;
            static Manifest manifest;
            static Mapper mapper;
            static MeterRegistry registry;
            static OpenTelemetry telemetry;
            static jakarta.servlet.ServletContext context;
            record Manifest(int passengers) {}
            interface Mapper { Manifest readManifest(String text); String write(Manifest manifest); }
            static void book(Connection connection, Instant planned) throws SQLException {}
            static void export(long fence) {}
            static void load(Manifest manifest) {}
            static void page(String text) {}
            static boolean storm() { return false; }
            """;

    @TempDir
    private Path folder;

    static List<String> pieces() throws IOException {
        Path here = Path.of("").toAbsolutePath();
        Path root = Files.exists(here.resolve("docs")) ? here : here.getParent();
        List<String> pieces = new ArrayList<>();
        try (Stream<Path> docs = Files.walk(root.resolve("docs"))) {
            for (Path page : Stream.concat(Stream.of(root.resolve("README.md")), docs.sorted())
                    .toList()) {
                // What stands in the page on Spring is of the sample, which is compiled and held against it there.
                if (page.toString().endsWith(".md") && !page.endsWith("spring.md")) {
                    Matcher piece = JAVA.matcher(Files.readString(page));
                    while (piece.find()) {
                        pieces.add(piece.group(1));
                    }
                }
            }
        }
        return pieces;
    }

    @ParameterizedTest
    @MethodSource("pieces")
    void compiles(String piece) {
        boolean whole = piece.contains("class ");
        boolean namesBrume = Pattern.compile("\\bBrume brume =").matcher(piece).find();
        String source = whole
                ? IMPORTS + piece
                : IMPORTS + "class Piece {\n" + GIVEN + "void piece(" + (namesBrume ? "" : "Brume brume")
                        + ") throws Exception {\n" + piece + "\n}\n}\n";
        JavaCompiler compiler = ToolProvider.getSystemJavaCompiler();
        DiagnosticCollector<JavaFileObject> found = new DiagnosticCollector<>();
        boolean compiled = compiler.getTask(
                        new StringWriter(),
                        null,
                        found,
                        List.of(
                                "-proc:none",
                                "-d",
                                folder.toString(),
                                "-classpath",
                                System.getProperty("java.class.path")),
                        null,
                        List.of(new Source(whole ? piece.replaceAll("(?s).*class (\\w+).*", "$1") : "Piece", source)))
                .call();

        assertThat(compiled).as("%s%n%s", piece, found.getDiagnostics()).isTrue();
    }

    /** Source that is in memory. */
    private static final class Source extends SimpleJavaFileObject {
        private final String text;

        Source(String name, String text) {
            super(URI.create("string:///" + name + ".java"), Kind.SOURCE);
            this.text = text;
        }

        @Override
        public CharSequence getCharContent(boolean ignoreEncodingErrors) {
            return text;
        }
    }
}
