package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.MessageDigest;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.condition.EnabledIfSystemProperty;
import org.junit.jupiter.api.io.TempDir;

/** What would be published: built twice to the same bytes, and used by an application from an empty local repository. */
@EnabledIfSystemProperty(named = "brume.published", matches = "true")
class PublishedTest {
    private static final Set<String> NOT_SOURCES = Set.of("target", ".git", ".brume-build");

    private static final String POM = """
            <project xmlns="http://maven.apache.org/POM/4.0.0">
              <modelVersion>4.0.0</modelVersion>
              <groupId>org.example</groupId>
              <artifactId>harbour</artifactId>
              <version>1</version>
              <properties>
                <maven.compiler.release>17</maven.compiler.release>
                <project.build.sourceEncoding>UTF-8</project.build.sourceEncoding>
              </properties>
              <repositories>
                <repository><id>published</id><url>PUBLISHED</url></repository>
              </repositories>
              <dependencyManagement>
                <dependencies>
                  <dependency>
                    <groupId>dev.brume</groupId>
                    <artifactId>brume-bom</artifactId>
                    <version>VERSION</version>
                    <type>pom</type>
                    <scope>import</scope>
                  </dependency>
                </dependencies>
              </dependencyManagement>
              <dependencies>
                <dependency><groupId>dev.brume</groupId><artifactId>brume-jdbc</artifactId></dependency>
                <dependency><groupId>org.postgresql</groupId><artifactId>postgresql</artifactId><version>42.7.14</version><scope>runtime</scope></dependency>
              </dependencies>
              <build>
                <pluginManagement>
                  <plugins>
                    <plugin><artifactId>maven-compiler-plugin</artifactId><version>3.14.0</version></plugin>
                    <plugin><artifactId>maven-dependency-plugin</artifactId><version>3.8.1</version></plugin>
                  </plugins>
                </pluginManagement>
              </build>
            </project>
            """;

    private static final String APPLICATION = """
            import dev.brume.Brume;
            import dev.brume.Job;
            import dev.brume.jdbc.JdbcStore;
            import java.util.concurrent.CountDownLatch;
            import java.util.concurrent.TimeUnit;
            import javax.sql.DataSource;

            public class Harbour {
                public static void main(String[] args) throws Exception {
                    DataSource database = (DataSource) Class.forName("org.postgresql.ds.PGSimpleDataSource").getConstructor().newInstance();
                    database.getClass().getMethod("setURL", String.class).invoke(database, args[0]);
                    CountDownLatch ran = new CountDownLatch(1);
                    try (Brume brume = Brume.on(JdbcStore.builder(database).schema(args[1]).build()).build()) {
                        brume.define(Job.named("tides"), run -> ran.countDown());
                        brume.start();
                        brume.orders("harbour", "").runNow(dev.brume.JobName.parse("tides"));
                        System.out.println(ran.await(60, TimeUnit.SECONDS) ? "the tides were told" : "nothing came");
                    }
                }
            }
            """;

    @TempDir
    private Path folder;

    @Test
    void anApplicationIsBuiltAgainstItFromNothing() throws Exception {
        Path published = folder.resolve("published");
        Path sources = copyOfTheSources("here");
        run(
                sources,
                "mvn",
                "-B",
                "-ntp",
                "-q",
                "-Prelease",
                "-DskipTests",
                "deploy",
                "-DaltDeploymentRepository=published::default::" + published.toUri());
        Path elsewhere = copyOfTheSources("elsewhere");
        run(elsewhere, "mvn", "-B", "-ntp", "-q", "-Prelease", "-DskipTests", "verify");
        assertThat(digests(elsewhere)).isEqualTo(digests(sources)).hasSizeGreaterThan(20);

        String version = Files.readString(sources.resolve("brume-bom/pom.xml"))
                .replaceFirst("(?s).*?<version>(.*?)</version>.*", "$1");
        Path application = Files.createDirectories(folder.resolve("application"));
        Files.writeString(
                application.resolve("pom.xml"),
                POM.replace("PUBLISHED", published.toUri().toString()).replace("VERSION", version));
        Path code = Files.createDirectories(application.resolve("src/main/java"));
        Files.writeString(code.resolve("Harbour.java"), APPLICATION);
        run(
                application,
                "mvn",
                "-B",
                "-ntp",
                "-q",
                "-Dmaven.repo.local=" + folder.resolve("empty"),
                "compile",
                "dependency:build-classpath",
                "-Dmdep.outputFile=classpath.txt");
        String classpath =
                Files.readString(application.resolve("classpath.txt")).strip();
        assertThat(Stream.of(classpath.split(":"))
                        .map(jar -> Path.of(jar).getFileName().toString()))
                .anyMatch(jar -> jar.startsWith("brume-core-"))
                .noneMatch(jar -> jar.matches("(h2|mariadb|HikariCP|logback|junit).*"));
        assertThat(run(
                        application,
                        "java",
                        "-cp",
                        "target/classes:" + classpath,
                        "Harbour",
                        Databases.postgresUrl(),
                        Databases.freshName()))
                .contains("the tides were told");

        Path unpacked = Files.createDirectories(folder.resolve("unpacked"));
        Path archive = sources.resolve("brume-cli/target/brume-cli-" + version + "-command.tar.gz");
        run(unpacked, "tar", "xzf", archive.toString(), "--strip-components=1");
        assertThat(run(unpacked, "bin/brume", "--version")).startsWith("brume " + version);
        assertThat(Files.readString(unpacked.resolve("share/man/man1/brume.1"))).contains(".SS \"brume run\\-now\"");
        assertThat(Files.readString(unpacked.resolve("share/bash-completion/completions/brume")))
                .contains("run-now");
        assertThat(Files.readString(unpacked.resolve("share/doc/sbom.json"))).contains("CycloneDX", "picocli");
    }

    private Path copyOfTheSources(String name) throws IOException {
        Path root = Path.of("").toAbsolutePath();
        Path from = Files.exists(root.resolve("brume-bom")) ? root : root.getParent();
        Path to = folder.resolve(name);
        copy(from, to);
        return to;
    }

    private static void copy(Path from, Path to) throws IOException {
        if (Files.isDirectory(from)) {
            Files.createDirectories(to);
            try (Stream<Path> children = Files.list(from)) {
                for (Path child : children.toList()) {
                    if (!NOT_SOURCES.contains(child.getFileName().toString())) {
                        copy(child, to.resolve(child.getFileName()));
                    }
                }
            }
        } else {
            Files.copy(from, to, java.nio.file.StandardCopyOption.COPY_ATTRIBUTES);
        }
    }

    /** Of the jars of libraries, and of the archive. */
    private static Map<String, String> digests(Path root) throws IOException {
        Map<String, String> digests = new TreeMap<>();
        try (Stream<Path> files = Files.walk(root)) {
            files.filter(file -> file.getParent().endsWith("target"))
                    .filter(file -> file.toString()
                            .matches(".*/brume-(?!tests|benchmarks|examples|simulator).*(\\.jar|\\.tar\\.gz)"))
                    .forEach(file -> digests.put(root.relativize(file).toString(), digest(file)));
        }
        return digests;
    }

    private static String digest(Path file) {
        try {
            return HexFormat.of().formatHex(MessageDigest.getInstance("SHA-256").digest(Files.readAllBytes(file)));
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        } catch (java.security.NoSuchAlgorithmException e) {
            throw new IllegalStateException(e);
        }
    }

    private String run(Path where, String... command) throws Exception {
        Path out = Files.createTempFile(folder, "out", ".txt");
        Process process = new ProcessBuilder(new ArrayList<>(List.of(command)))
                .directory(where.toFile())
                .redirectErrorStream(true)
                .redirectOutput(out.toFile())
                .start();
        int exit = process.waitFor();
        String text = Files.readString(out);
        assertThat(exit).as("%s: %s", String.join(" ", command), text).isZero();
        return text;
    }
}
