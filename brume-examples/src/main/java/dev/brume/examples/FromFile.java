package dev.brume.examples;

import dev.brume.Brume;
import dev.brume.definitions.DefinitionFile;
import dev.brume.definitions.DefinitionsException;
import dev.brume.memory.MemoryStore;
import java.nio.file.Path;
import java.time.Duration;

/** Jobs from a definition file whose work is Java code, tried out in memory for a while. */
public final class FromFile {
    private FromFile() {}

    /**
     * Runs the jobs of a file.
     *
     * @param args the file, and for how long, such as {@code 5s}
     */
    public static void main(String[] args) throws InterruptedException {
        DefinitionFile file;
        try {
            file = DefinitionFile.read(Path.of(args[0]));
        } catch (DefinitionsException e) {
            e.problems().forEach(System.err::println);
            return;
        }
        try (Brume brume = Brume.on(new MemoryStore())
                .instance("trial")
                .engineListener(event -> System.out.println(event.kind() + " " + event.text()))
                .build()) {
            brume.handler("ring-bell", run -> run.print("ding, attempt " + run.attempt()));
            brume.define(file.definitions());
            brume.start();
            Thread.sleep(Duration.parse("PT" + args[1]).toMillis());
        }
    }
}
