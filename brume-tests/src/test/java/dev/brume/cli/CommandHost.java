package dev.brume.cli;

import java.io.ByteArrayOutputStream;
import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.EOFException;
import java.io.FileDescriptor;
import java.io.FileOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;

/**
 * Carries out commands one after another in the folder in which it was started, as {@link Main} would in a process each. It reads how many words a
 * command has, and the words; it writes the exit code, what went to standard output, and what went to standard error. It ends with its input.
 */
public final class CommandHost {
    private final DataOutputStream replies;

    private CommandHost(DataOutputStream replies) {
        this.replies = replies;
    }

    public static void main(String[] args) throws IOException {
        DataInputStream commands = new DataInputStream(System.in);
        System.setIn(InputStream.nullInputStream());
        CommandHost host = new CommandHost(new DataOutputStream(new FileOutputStream(FileDescriptor.out)));
        while (true) {
            String[] words;
            try {
                words = new String[commands.readInt()];
            } catch (EOFException e) {
                break;
            }
            for (int i = 0; i < words.length; i++) {
                words[i] = new String(commands.readNBytes(commands.readInt()), StandardCharsets.UTF_8);
            }
            host.carryOut(words);
        }
        // Whatever threads a command left behind end with it, as they end with a command's own process.
        System.exit(0);
    }

    private void carryOut(String[] words) throws IOException {
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        ByteArrayOutputStream err = new ByteArrayOutputStream();
        TerminalStream toOut = new TerminalStream(out);
        TerminalStream toErr = new TerminalStream(err);
        PrintStream printsOut = new PrintStream(toOut, true, StandardCharsets.UTF_8);
        PrintStream printsErr = new PrintStream(toErr, true, StandardCharsets.UTF_8);
        System.setOut(printsOut);
        System.setErr(printsErr);
        int code = BrumeCommand.run(words, printsOut, printsErr);
        toOut.finish();
        toErr.finish();
        replies.writeInt(code);
        write(out);
        write(err);
        replies.flush();
    }

    private void write(ByteArrayOutputStream bytes) throws IOException {
        replies.writeInt(bytes.size());
        bytes.writeTo(replies);
    }
}
