package dev.brume.benchmarks;

import java.io.ByteArrayOutputStream;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;

/** What a benchmark prints in its short form. */
final class Printed {
    private Printed() {}

    interface Benchmark {
        void main(String[] args) throws Exception;
    }

    static String by(Benchmark benchmark, String... args) throws Exception {
        PrintStream before = System.out;
        ByteArrayOutputStream bytes = new ByteArrayOutputStream();
        System.setOut(new PrintStream(bytes, /* autoFlush= */ true, StandardCharsets.UTF_8));
        try {
            benchmark.main(args);
        } finally {
            System.setOut(before);
        }
        return bytes.toString(StandardCharsets.UTF_8);
    }
}
