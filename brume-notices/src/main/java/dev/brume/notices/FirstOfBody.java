package dev.brume.notices;

import java.io.ByteArrayOutputStream;
import java.net.http.HttpResponse;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionStage;
import java.util.concurrent.Flow;
import org.jspecify.annotations.Nullable;

/** Reads the beginning of an answer, and leaves the rest where it is. */
final class FirstOfBody implements HttpResponse.BodySubscriber<String> {
    private static final int MOST = 2048;

    private final CompletableFuture<String> text = new CompletableFuture<>();
    private final ByteArrayOutputStream read = new ByteArrayOutputStream();
    private Flow.@Nullable Subscription subscription;

    @Override
    public CompletionStage<String> getBody() {
        return text;
    }

    @Override
    public void onSubscribe(Flow.Subscription given) {
        subscription = given;
        given.request(1);
    }

    @Override
    public void onNext(List<ByteBuffer> buffers) {
        for (ByteBuffer buffer : buffers) {
            byte[] some = new byte[Math.min(buffer.remaining(), MOST - read.size())];
            buffer.get(some);
            read.writeBytes(some);
        }
        if (read.size() >= MOST) {
            subscription.cancel();
            onComplete();
        } else {
            subscription.request(1);
        }
    }

    @Override
    public void onError(Throwable thrown) {
        text.completeExceptionally(thrown);
    }

    @Override
    public void onComplete() {
        text.complete(read.toString(StandardCharsets.UTF_8));
    }
}
