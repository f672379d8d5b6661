package dev.brume.notices;

import dev.brume.notice.Channel;
import dev.brume.notice.Notice;
import dev.brume.notice.Sender;
import dev.brume.notice.Way;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.channels.SeekableByteChannel;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.concurrent.TimeUnit;

/** Runs a program for each notice. It exits with 0 once it has it; anything else is tried again. Safe for use by many threads. */
final class ProgramSender implements Sender {
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
        // A file rather than a pipe: a pipe is full some day, and would wait for a program that does not read.
        Path given = Files.createTempFile("brume-notice", ".json");
        Path printed = Files.createTempFile("brume-notice", ".txt");
        try {
            Files.writeString(given, CloudEvent.json(CloudEvent.of(channel, notice, text)));
            Process process = new ProcessBuilder(command)
                    .redirectInput(given.toFile())
                    .redirectErrorStream(true)
                    .redirectOutput(printed.toFile())
                    .start();
            try {
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
            Files.deleteIfExists(given);
            Files.deleteIfExists(printed);
        }
    }

    private static String lastLine(Path printed) throws IOException {
        long size = Files.size(printed);
        try (SeekableByteChannel file = Files.newByteChannel(printed)) {
            file.position(Math.max(0, size - MOST));
            ByteBuffer buffer = ByteBuffer.allocate(MOST);
            int count = file.read(buffer);
            String text = new String(buffer.array(), 0, Math.max(0, count), StandardCharsets.UTF_8).strip();
            return text.isEmpty() ? "it printed nothing" : text.substring(text.lastIndexOf('\n') + 1);
        }
    }
}
