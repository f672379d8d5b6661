/** Brume over HTTP by itself: {@link dev.brume.server.HttpServer} serves what {@link dev.brume.http.BrumeHttp} makes. */
@NullMarked
package dev.brume.server;

import org.jspecify.annotations.NullMarked;
