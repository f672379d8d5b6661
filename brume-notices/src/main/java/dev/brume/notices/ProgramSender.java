package dev.brume.notices;

import dev.brume.notice.Channel;
import dev.brume.notice.Notice;
import dev.brume.notice.Sender;
import dev.brume.notice.Way;
import java.io.IOException;
import java.io.OutputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.concurrent.TimeUnit;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Runs a program for each notice. It exits with 0 once it has it; anything else is tried again. Safe for use by many threads. */
final class ProgramSender implements Sender {
    private static final Logger LOG = LoggerFactory.getLogger(ProgramSender.class);
    private static final int MOST = 2048;

    @Override
    public boolean sends(Way way) {
        return way instanceof Way.Program;
    }

    @Override
    public String send(Channel channel, List<Notice> notices) throws Exception {
        String remarks = "";
        for (Notice notice : notices) {
            remarks = send(channel, notice);
        }
        return remarks;
    }

    private static String send(Channel channel, Notice notice) throws IOException, InterruptedException {
        Way.Program program = (Way.Program) channel.way();
        NoticeText text = NoticeText.of(channel, notice);
        List<String> command = program.command().stream().map(Outside::fill).toList();
        Path printed = Files.createTempFile("brume-notice", ".txt");
        try {
            Process process = new ProcessBuilder(command)
                    .redirectErrorStream(true)
                    .redirectOutput(printed.toFile())
                    .start();
            try {
                give(process, CloudEvent.json(CloudEvent.of(channel, notice, text)));
                if (!process.waitFor(program.timeLimit().toMillis(), TimeUnit.MILLISECONDS)) {
                    throw new IOException("the program did not end within "
                            + program.timeLimit().toMillis() + " ms");
                }
            } finally {
                process.descendants().forEach(ProcessHandle::destroyForcibly);
                process.destroyForcibly();
            }
            if (process.exitValue() != 0) {
                throw new IOException("the program exited with " + process.exitValue() + ": " + lastLine(printed));
            }
            return text.remark();
        } finally {
            Files.deleteIfExists(printed);
        }
    }

    /** A program that does not want to know may end without reading: its exit code says whether it has it. */
    private static void give(Process process, String event) {
        try (OutputStream input = process.getOutputStream()) {
            input.write(event.getBytes(StandardCharsets.UTF_8));
        } catch (IOException e) {
            LOG.debug("a program did not read what it was given", e);
        }
    }

    private static String lastLine(Path printed) throws IOException {
        long size = Files.size(printed);
        try (var file = Files.newByteChannel(printed)) {
            file.position(Math.max(0, size - MOST));
            var buffer = java.nio.ByteBuffer.allocate(MOST);
            int count = file.read(buffer);
            String text = new String(buffer.array(), 0, Math.max(0, count), StandardCharsets.UTF_8).strip();
            return text.isEmpty() ? "it printed nothing" : text.substring(text.lastIndexOf('\n') + 1);
        }
    }
}
