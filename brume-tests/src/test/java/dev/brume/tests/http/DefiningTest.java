package dev.brume.tests.http;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Allowance;
import dev.brume.Brume;
import dev.brume.Deadline;
import dev.brume.FollowUp;
import dev.brume.Grant;
import dev.brume.IfFailed;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Role;
import dev.brume.definitions.JsonText;
import dev.brume.examples.FerryOffice;
import dev.brume.history.Change;
import dev.brume.history.ChangeFilter;
import dev.brume.jdbc.JdbcStore;
import dev.brume.memory.MemoryStore;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.DayCalendar;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpRequest.BodyPublishers;
import java.net.http.HttpResponse;
import java.net.http.HttpResponse.BodyHandlers;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.openqa.selenium.By;
import org.openqa.selenium.Dimension;
import org.openqa.selenium.Keys;
import org.openqa.selenium.WebElement;
import org.openqa.selenium.interactions.Actions;
import org.openqa.selenium.support.ui.Select;

/** Defining jobs on the page, in a real browser. */
class DefiningTest {
    private static final String HOSTILE = "<img src=x onerror=alert(1)>";
    private static final ZoneId LISBON = ZoneId.of("Europe/Lisbon");
    private static final LocalDate FEAST = LocalDate.now(LISBON).plusMonths(2).withDayOfMonth(25);
    private static Web web;
    private static Browser browser;

    @BeforeAll
    static void open() {
        web = Web.open();
        web.brume.define(holidays());
        web.brume
                .orders("ines", "the ferry company defines for itself")
                .allow(
                        "ferry",
                        Allowance.OWN
                                .mostJobs(3)
                                .shortestInterval(Duration.ofMinutes(15))
                                .handlers(List.of("tide-tables", "post-notice")));
        browser = Browser.open(web, Grant.everywhere(Role.ADMIN));
    }

    private static DayCalendar holidays() {
        return DayCalendar.ofDates("/feasts", List.of(FEAST));
    }

    @AfterAll
    static void close() {
        if (browser != null) {
            browser.close();
        }
        web.close();
    }

    private static WebElement field(Browser looking, String name) {
        String selector = (name.equals("because") ? "#save" : "#form") + " [name=" + name + "]";
        looking.await(name, () -> looking.find(selector).isDisplayed());
        return looking.find(selector);
    }

    private static void type(Browser looking, String name, String text) {
        WebElement field = field(looking, name);
        field.clear();
        field.sendKeys(text);
    }

    private static void choose(Browser looking, String name, String value) {
        new Select(field(looking, name)).selectByValue(value);
    }

    private static String document(Browser looking) {
        return looking.find("#document").getDomProperty("value");
    }

    private static void awaitText(Browser looking, String selector, String text) {
        looking.await(
                text + " in " + selector,
                () -> looking.all(selector).stream()
                        .anyMatch(part -> part.getText().contains(text)));
    }

    private static Job job(String name) {
        return web.brume.history().job(JobName.parse(name)).orElseThrow().job();
    }

    private static void define(String name, String cron) {
        web.brume.define(Job.named(JobName.parse(name))
                .schedule(CronSchedule.parse(cron, LISBON))
                .handler("tide-tables")
                .build());
    }

    // The engineer.

    @Test
    void formAndDocumentFollowEachOther() {
        define("quay/follows", "15 4 * * *");
        browser.go("/jobs/quay/follows/define");
        awaitText(browser, "#words", "At 04:15 every day, Lisbon time");
        choose(browser, "days", "weekdayOfMonth");
        choose(browser, "which", "last");
        choose(browser, "weekday", "FRI");
        type(browser, "times", "5 pm");
        browser.await("the document", () -> document(browser).contains("cron: 0 17 * * 5L"));
        awaitText(browser, "#words", "At 17:00 on the last Friday of the month, Lisbon time");
        awaitText(browser, "#timing", "forward by 1 h: nothing is owed on that day");
        awaitText(browser, "#changes", "gets version 2");
        awaitText(browser, "#changes", "- when: ");
        awaitText(browser, "#changes", "instead of 14");
        WebElement text = browser.find("#document");
        text.sendKeys(
                Keys.chord(Keys.CONTROL, "a"),
                "when: {every: 90m, zone: Europe/Lisbon}\nwork: {handler: tide-tables}\ntimeLimit: 5m\n");
        browser.await(
                "the form",
                () -> field(browser, "timeLimit").getDomProperty("value").equals("5m"));
        assertThat(field(browser, "pattern").getDomProperty("value")).isEqualTo("fixed");
        assertThat(field(browser, "interval").getDomProperty("value")).isEqualTo("1h30m");
        text.sendKeys("timeLimt: 5m\n");
        awaitText(browser, "#problems", "did you mean timeLimit?");
        text.sendKeys(
                Keys.chord(Keys.CONTROL, "a"),
                "when: {cron: '0 9 13 * 5', zone: Europe/Lisbon}\nwork: {handler: tide-tables}\n");
        awaitText(browser, "#unsaid", "restricts both the day of the month and the day of the week");
        awaitText(browser, ".when .wrong, #problems", "a day that matches either is enough");
    }

    @Test
    void twoEditorsLoseNothing() {
        define("quay/shared", "15 4 * * *");
        browser.go("/jobs/quay/shared/define");
        awaitText(browser, "#words", "At 04:15");
        type(browser, "times", "5:30");
        browser.await("the document", () -> document(browser).contains("30 5 * * *"));
        web.as(Role.AUTHOR);
        Map<String, Object> theirs = web.get("/jobs/quay/shared/definition").map();
        theirs.put("timeLimit", "7m");
        web.send("PUT", "/jobs/quay/shared/definition?takeOver=true&because=too+long", theirs, "If-Match", "*")
                .is(200);
        type(browser, "because", "half an hour later");
        browser.find("#save .main").click();
        awaitText(browser, "#meanwhile-title", "too long");
        awaitText(browser, "#theirs", "timeLimit");
        awaitText(browser, "#mine", "30 5 * * *");
        awaitText(browser, "#clashes", "You changed different things");
        assertThat(job("quay/shared").scheduleInWords()).contains("04:15");
        browser.find("#both").click();
        browser.await(
                "both",
                () -> document(browser).contains("7m") && document(browser).contains("30 5 * * *"));
        browser.await("nothing to decide", () -> !browser.find("#meanwhile").isDisplayed());
        browser.find("#save .main").click();
        awaitText(browser, "#save .answer", "Version 3 is in force.");
        assertThat(job("quay/shared").scheduleInWords()).contains("05:30");
        assertThat(job("quay/shared").timeLimit()).contains(Duration.ofMinutes(7));
        Change change = web.brume
                .history()
                .changes(ChangeFilter.newest(1).of(JobName.parse("quay/shared")))
                .get(0)
                .change();
        assertThat(change.who()).isEqualTo("mara");
        assertThat(change.because()).isEqualTo("half an hour later");
    }

    @Test
    void undoIsANewVersionThatEqualsTheOldOne() {
        define("quay/undone", "15 4 * * *");
        define("quay/undone", "15 5 * * *");
        browser.go("/jobs/quay/undone");
        List<WebElement> versions = browser.all("main > details");
        versions.get(1).findElement(By.tagName("summary")).click();
        WebElement order = versions.get(1).findElement(By.cssSelector(".order"));
        order.findElement(By.tagName("summary")).click();
        assertThat(order.getText())
                .contains("Undo the last change", "equal to version 1", "api goes on to define the job");
        order.findElement(By.name("because")).sendKeys("the new time was wrong");
        order.findElement(By.tagName("button")).click();
        browser.await("the answer", () -> order.getText().contains("Done."));
        assertThat(job("quay/undone").scheduleInWords()).contains("04:15");
        assertThat(web.brume
                        .history()
                        .job(JobName.parse("quay/undone"))
                        .orElseThrow()
                        .row()
                        .version())
                .isEqualTo(3);
    }

    @Test
    void itIsTriedBeforeItIsSaved() {
        web.brume.handler("prints", run -> run.print("printed by quay-1 " + HOSTILE));
        web.brume.define(
                Job.named(JobName.parse("quay/tried")).handler("prints").build());
        browser.go("/jobs/quay/tried/define");
        awaitText(browser, "#problems, .when .wrong", "has no schedule");
        choose(browser, "pattern", "interval");
        type(browser, "interval", "10");
        awaitText(browser, "#words", "Every 10 minutes, UTC");
        browser.find("#rehearsal summary").click();
        browser.find("#rehearse").click();
        browser.await(
                "the rehearsal",
                () -> browser.find("#rehearsal .answer").getText().matches("In two weeks: it runs 20\\d\\d times.*"));
        assertThat(browser.find("#rehearsal .report").getText()).contains("Most at once");
        browser.find("#trial summary").click();
        browser.find("#trial button").click();
        awaitText(browser, "#printed", "printed by quay-1 " + HOSTILE);
        awaitText(browser, "#went", "It ended: succeeded.");
    }

    @Test
    void whatWasTypedOutlivesAReloadAndAStoreThatIsAway() throws Exception {
        AwaySource source = new AwaySource("awaywhiledefining");
        try (Brume brume = Brume.on(JdbcStore.on(source)).withoutLog().build();
                Web other = Web.over(brume);
                Browser looking = Browser.open(other, Grant.everywhere(Role.AUTHOR))) {
            looking.go("/jobs/ferry/dock-check/define");
            awaitText(looking, "#words", "At 04:15");
            type(looking, "times", "6:45");
            looking.await("the document", () -> document(looking).contains("45 6 * * *"));
            looking.driver.navigate().refresh();
            awaitText(looking, "#restored", "did not save");
            awaitText(looking, "#words", "At 06:45");
            looking.find("#save [name=takeOver]").click();
            source.away(true);
            looking.find("#save .main").click();
            looking.await("what is wrong", () -> looking.text().contains("The store cannot answer"));
            assertThat(document(looking)).contains("45 6 * * *");
            source.away(false);
            awaitText(looking, "#words", "At 06:45");
            looking.find("#save .main").click();
            awaitText(looking, "#save .answer", "Version 2 is in force.");
            assertThat(brume.history().job(Web.DOCK).orElseThrow().job().scheduleInWords())
                    .contains("06:45");
        }
    }

    // The tenant.

    private static void press(Browser looking, CharSequence... keys) {
        for (CharSequence key : keys) {
            new Actions(looking.driver).sendKeys(key).perform();
        }
    }

    /** Goes on by the tabulator alone until a field has the focus; what is in it is selected then. */
    private static void tabTo(Browser looking, String name) {
        for (int i = 0; i < 80; i++) {
            press(looking, Keys.TAB);
            if (name.equals(looking.driver.executeScript(
                    "return document.activeElement.name || document.activeElement.textContent.trim()"))) {
                return;
            }
        }
        throw new AssertionError("the tabulator never comes to " + name);
    }

    @Test
    void aTenantsFirstJobByKeyboardAlone() {
        try (Browser tenant = Browser.open(web, Grant.within(List.of("ferry"), Role.AUTHOR))) {
            tenant.go("/define");
            assertThat(tenant.text()).contains("at most 3 jobs", "at least 15m apart");
            tabTo(tenant, "name");
            press(tenant, "notice");
            tabTo(tenant, "pattern");
            press(tenant, Keys.ARROW_DOWN);
            tabTo(tenant, "interval");
            press(tenant, "5");
            tabTo(tenant, "zone");
            press(tenant, "Europe/Lisbon");
            tabTo(tenant, "handler");
            press(tenant, "sweep");
            awaitText(tenant, ".when .wrong", "leaves only 5m between two occurrences, and 15m is the least");
            awaitText(tenant, ".wrong", "'sweep' is not among those it may have");
            tabTo(tenant, "Define it");
            press(tenant, Keys.ENTER);
            awaitText(tenant, "#save .answer", "Not saved: some things are wrong.");
            assertThat(web.brume.history().job(JobName.parse("ferry/notice"))).isEmpty();
            assertThat(tenant.driver.executeScript("return document.activeElement.name"))
                    .isEqualTo("pattern");
            tabTo(tenant, "interval");
            press(tenant, "30");
            tabTo(tenant, "handler");
            press(tenant, "post-notice");
            tenant.await("nothing wrong", () -> tenant.all("[aria-invalid]").isEmpty());
            tabTo(tenant, "because");
            press(tenant, "the first one", Keys.ENTER);
            awaitText(tenant, "#save .answer", "Version 1 is in force.");
            assertThat(job("ferry/notice").scheduleInWords()).isEqualTo("Every 30 minutes, Lisbon time");
            assertThat(tenant.go("/jobs").text()).contains("notice").doesNotContain("tide-tables");
            assertThat(tenant.go("/define?namespace=harbour").text())
                    .contains("you may define nothing in namespace 'harbour'; yours are ferry");
        }
    }

    @Test
    void aTenantHasCalendarsAndLimitsOfItsOwn() {
        web.as(Grant.within(List.of("ferry"), Role.AUTHOR));
        try (Browser tenant = Browser.open(web, Grant.within(List.of("ferry"), Role.AUTHOR))) {
            tenant.go("/calendars");
            WebElement order = tenant.find(".order");
            order.findElement(By.tagName("summary")).click();
            order.findElement(By.name("dates")).sendKeys("2027-05-33");
            order.findElement(By.tagName("button")).click();
            tenant.await("what is wrong", () -> order.getText().contains("Say which name."));
            order.findElement(By.name("name")).sendKeys("quiet-days");
            order.findElement(By.tagName("button")).click();
            tenant.await("what is wrong", () -> order.getText().contains("2027-05-33"));
            order.findElement(By.name("dates")).sendKeys(Keys.BACK_SPACE, Keys.BACK_SPACE, "03\n" + FEAST);
            order.findElement(By.tagName("button")).click();
            tenant.await("the answer", () -> order.getText().contains("Done."));
            assertThat(tenant.go("/calendars").text()).contains("ferry/quiet-days", FEAST.toString());
            tenant.go("/define");
            awaitText(tenant, "[data-part=notOn]", "quiet-days");
        }
        web.send("PUT", "/namespaces/harbour/calendars/x", Map.of("weekly", "SAT-SUN"))
                .is(404);
        web.send("PUT", "/namespaces/ferry/calendars/x", Map.of("weekly", "SUNDAYS"))
                .is(400);
        web.send("PUT", "/namespaces/ferry/limits/printers", Map.of("places", 2, "because", "a second one"))
                .is(200);
        web.send("PUT", "/namespaces/ferry/limits/printers", Map.of("starts", 2))
                .is(400);
        assertThat(web.get("/limits").body()).contains("\"ferry/printers\"");
    }

    @Test
    void theFormStandsInThePageOfAnApplication() throws Exception {
        Brume brume = Brume.on(new MemoryStore()).withoutLog().build();
        try (FerryOffice office = new FerryOffice(brume);
                Web served = Web.over(brume, office.address().toString());
                Browser looking = Browser.open(served, Grant.everywhere(Role.VIEWER))) {
            office.formsAt(served.uri(""));
            looking.complaints();
            looking.driver.get(office.address().toString());
            looking.driver.switchTo().frame(0);
            looking.await("the form", () -> !looking.all("[data-part=times]").isEmpty());
            choose(looking, "days", "workingDayOfMonth");
            choose(looking, "which", "last");
            field(looking, "times").sendKeys("17h");
            awaitText(looking, "#words", "At 17:00 on the last workday (Monday to Friday) of the month, Lisbon time");
            assertThat(looking.violations()).isEqualTo(List.of());
            looking.driver.switchTo().defaultContent();
            looking.await(
                    "the answer",
                    () -> Boolean.TRUE.equals(looking.driver.executeScript(
                            "return document.querySelector('brume-when').choice.next.length === 10")));
            looking.find("form button").click();
            awaitText(looking, "#said", "The notice is posted: At 17:00 on the last workday");
            assertThat(looking.complaints()).isEmpty();
            Job notice = brume.history()
                    .job(JobName.parse("ferry/notice"))
                    .orElseThrow()
                    .job();
            assertThat(notice.schedules()).containsExactly(CronSchedule.parse("0 17 LW * *", LISBON));
        } finally {
            brume.close();
        }
    }

    /** Whoever sends the form of an application by hand says when, and nothing else. */
    @Test
    void anApplicationTakesNothingButASchedule() throws Exception {
        Brume brume = Brume.on(new MemoryStore()).withoutLog().build();
        try (FerryOffice office = new FerryOffice(brume)) {
            for (String sent : List.of(
                    "{every: 1h}, work: {program: [sh]}} #",
                    "{every: 1h}, \"timeLimit\": \"1s\"",
                    "{every: 1h}, x: {",
                    "",
                    "[",
                    HOSTILE)) {
                HttpResponse<String> said = HttpClient.newHttpClient()
                        .send(
                                HttpRequest.newBuilder(office.address())
                                        .POST(BodyPublishers.ofString(
                                                "when=" + URLEncoder.encode(sent, StandardCharsets.UTF_8)))
                                        .build(),
                                BodyHandlers.ofString());
                assertThat(said.body()).as(sent).contains("That is no schedule").doesNotContain(HOSTILE);
                assertThat(brume.history().jobs()).as(sent).isEmpty();
            }
        } finally {
            brume.close();
        }
    }

    @Test
    void otherPagesMayNotShowItAndNoOtherPageIsShown() throws Exception {
        Brume brume = Brume.on(new MemoryStore()).withoutLog().build();
        try (Web served = Web.over(brume, "https://ferry.merrow.example")) {
            Web.Said page = served.send(served.request("/embed/when").GET()).is(200);
            assertThat(page.header("Content-Security-Policy"))
                    .contains("frame-ancestors https://ferry.merrow.example;");
            assertThat(page.response().headers().firstValue("X-Frame-Options")).isEmpty();
            assertThat(served.send(served.request("/sign-in").GET()).header("Content-Security-Policy"))
                    .contains("frame-ancestors 'none'");
            assertThat(served.send(served.request("/assets/embed.js").GET()).header("Cross-Origin-Resource-Policy"))
                    .isEqualTo("cross-origin");
        } finally {
            brume.close();
        }
        assertThat(web.send(web.request("/embed/when").GET()).status()).isEqualTo(404);
    }

    // Everybody.

    private static void check(Browser looking) {
        assertThat(looking.violations()).isEqualTo(List.of());
        assertThat(looking.tooWide()).isEqualTo(0L);
    }

    @Test
    void itIsForEverybodyWideAndNarrowWithProblemsToo() throws Exception {
        browser.go("/define");
        check(browser);
        define("quay/narrow", "0 9 * * 5L");
        try (Browser phone = Browser.open(
                web, Grant.everywhere(Role.ADMIN), "--force-dark-mode", "--blink-settings=preferredColorScheme=0")) {
            phone.driver.manage().window().setSize(new Dimension(390, 844));
            phone.driver.executeCdpCommand(
                    "Emulation.setDeviceMetricsOverride",
                    Map.of("width", 390, "height", 844, "deviceScaleFactor", 1, "mobile", true));
            phone.go("/jobs/quay/narrow/define");
            awaitText(phone, "#words", "last Friday");
            type(phone, "times", "25");
            awaitText(phone, ".wrong", "'25' is not a time of the day");
            check(phone);
        }
    }

    @Test
    void hostileTextIsShownAsText() {
        browser.complaints();
        browser.go("/define?namespace=quay");
        for (WebElement field : browser.all("#form input:not([type=checkbox]), #form textarea")) {
            if (field.isDisplayed() && field.isEnabled()) {
                field.clear();
                field.sendKeys(HOSTILE);
            }
        }
        awaitText(browser, "body", "is not a name");
        type(browser, "namespace", "quay");
        type(browser, "name", "hostile");
        type(browser, "zone", "UTC");
        type(browser, "times", "8");
        type(browser, "timeLimit", "5m");
        type(browser, "attempts", "2");
        type(browser, "endBy", "06:00");
        type(browser, "successWithin", "2d");
        type(browser, "lane", "main");
        type(browser, "tags", "x");
        browser.await("nothing wrong", () -> browser.all("[aria-invalid]").isEmpty());
        browser.find("#save .main").click();
        awaitText(browser, "#save .answer", "Version 1 is in force.");
        browser.go("/jobs/quay/hostile");
        assertThat(browser.text()).contains(HOSTILE);
        browser.go("/jobs/quay/hostile/define");
        browser.await(
                "the form",
                () -> field(browser, "description").getDomProperty("value").equals(HOSTILE));
        assertThat(browser.all("img")).isEmpty();
        assertThat(browser.complaints()).isEmpty();
        assertThat(field(browser, "endBy").getDomProperty("value")).isEqualTo("06:00");
        assertThat(field(browser, "successWithin").getDomProperty("value")).isEqualTo("2d");
        assertThat(job("quay/hostile").description()).isEqualTo(HOSTILE);
        assertThat(job("quay/hostile").endBy()).contains(Deadline.at(LocalTime.of(6, 0)));
        assertThat(job("quay/hostile").successWithin()).contains(Duration.ofDays(2));
    }

    // What programs are told.

    private static Map<String, Object> draft(Map<String, Object> body) {
        return web.as(Role.AUTHOR).post("/drafts", body).is(200).map();
    }

    @Test
    void aJobRunsAfterAnotherOneWhichIsChangedAlong() {
        define("quay/first", "0 9 * * *");
        define("quay/second", "0 9 * * *");
        web.as(Role.AUTHOR);
        String seen = web.get("/jobs/quay/second/definition").header("ETag");
        Map<String, Object> drafted = draft(Map.of(
                "namespace",
                "quay",
                "name",
                "second",
                "document",
                web.get("/jobs/quay/second/definition").body(),
                "seen",
                seen,
                "form",
                Map.of("when", Map.of("pattern", "after", "after", "quay/first", "on", "end", "zone", "UTC"))));
        assertThat(drafted).containsEntry("after", "quay/first").containsEntry("on", "end");
        assertThat(String.valueOf(drafted.get("changes"))).contains("quay/first", "followUps");
        web.send(
                        "PUT",
                        "/jobs/quay/second/definition?takeOver=true&after=first&on=END",
                        String.valueOf(drafted.get("document")),
                        "If-Match",
                        seen)
                .is(200);
        assertThat(job("quay/first").followUps())
                .containsExactly(new FollowUp(FollowUp.On.END, JobName.parse("quay/second")));
        assertThat(job("quay/second").schedules()).isEmpty();
        Map<String, Object> again = draft(Map.of(
                "namespace",
                "quay",
                "name",
                "second",
                "document",
                web.get("/jobs/quay/second/definition").body(),
                "seen",
                web.get("/jobs/quay/second/definition").header("ETag")));
        assertThat(String.valueOf(again.get("form"))).contains("pattern=after, after=quay/first, on=end");
        web.send(
                        "PUT",
                        "/jobs/quay/second/definition?after=none",
                        "when: {cron: 0 9 * * *, zone: UTC}\nwork: {handler: tide-tables}",
                        "If-Match",
                        "*")
                .is(200);
        assertThat(job("quay/first").followUps()).isEmpty();
    }

    @Test
    void whatIsWrongIsSaidAtItsFieldAndNothingOfOthersIsTold() {
        assertThat(String.valueOf(
                        draft(Map.of("namespace", "harbour", "name", "tide-tables", "document", "work: {handler: x}"))
                                .get("problems")))
                .contains("field=name", "there is a job 'harbour/tide-tables' already");
        assertThat(String.valueOf(
                        draft(Map.of("namespace", "no name", "name", "x")).get("problems")))
                .contains("field=namespace");
        web.as(Grant.within(List.of("ferry"), Role.AUTHOR));
        Web.Said elsewhere = web.post("/drafts", Map.of("namespace", "harbour", "name", "tide-tables"))
                .is(200);
        assertThat(elsewhere.body()).contains("choose ferry").doesNotContain("already");
        web.as(Role.VIEWER)
                .post("/drafts", Map.of("namespace", "ferry", "name", "x"))
                .is(403);
        web.as(Role.AUTHOR)
                .post("/drafts", Map.of("name", "x", "form", Map.of("tide", "high")))
                .is(400);
        web.post("/drafts", Map.of("name", "x", "seen", "yesterday")).is(400);
    }

    @Test
    void aScheduleIsMadeOfItsPartsAndReadBack() {
        Map<String, Object> parts = Map.of(
                "pattern", "times",
                "days", "daysOfMonth",
                "monthDays", "25",
                "times", "9",
                "zone", "Europe/Lisbon",
                "notOn", List.of("/feasts"),
                "ifDayOff", "previous");
        web.as(Role.VIEWER);
        Map<String, Object> made = web.post("/timings", Map.of("parts", parts, "namespace", "harbour"))
                .is(200)
                .map();
        assertThat(made).containsEntry("isGood", true);
        assertThat(String.valueOf(made.get("timing"))).contains("movedTo=" + FEAST.minusDays(1));
        assertThat(String.valueOf(web.post("/timings", Map.of("when", made.get("when"), "namespace", "harbour"))
                        .is(200)
                        .map()
                        .get("timing")))
                .contains("monthDays=25", "notOn=[/feasts]", "ifDayOff=previous");
        assertThat(web.post(
                                "/timings",
                                Map.of(
                                        "parts",
                                        Map.of("pattern", "interval", "days", "each", "interval", "5", "zone", "UTC"),
                                        "namespace",
                                        "ferry"))
                        .is(200)
                        .body())
                .contains("15m is the least");
        web.post("/timings", Map.of("parts", parts, "when", "x")).is(400);
        web.as(Grant.within(List.of("harbour"), Role.VIEWER))
                .post("/timings", Map.of("parts", parts, "namespace", "ferry"))
                .is(404);
    }

    /** Also one that no job in force goes by so far. */
    @Test
    void aRehearsalKnowsTheCalendarsThatAreDefined() {
        LocalDate feast = LocalDate.now(LISBON).plusDays(5);
        web.as(Role.AUTHOR)
                .send("PUT", "/namespaces/pier/calendars/feasts", Map.of("dates", feast.toString()))
                .is(200);
        String definitions = "namespace: pier\njobs:\n  list:\n    when: {cron: '0 12 " + feast.getDayOfMonth()
                + " * *', zone: Europe/Lisbon, notOn: feasts, ifDayOff: previous}\n    work: {handler: tide-tables}\n";
        web.as(Grant.within(List.of("pier"), Role.VIEWER));
        assertThat(web.post("/rehearsals", Map.of("definitions", definitions, "for", "14d"))
                        .is(200)
                        .body())
                .contains("\"minute\":\"" + feast.minusDays(1));
        web.post("/rehearsals", Map.of("definitions", definitions.replace("namespace: pier", "namespace: ferry")))
                .is(404);
    }

    /** A job that runs by hand alone can be changed as any other, and stays so. */
    @Test
    void aJobWithoutAScheduleKeepsHavingNone() {
        web.brume.define(
                Job.named(JobName.parse("quay/by-hand")).handler("tide-tables").build());
        browser.go("/jobs/quay/by-hand/define");
        browser.await(
                "the form",
                () -> field(browser, "pattern").getDomProperty("value").equals("none"));
        type(browser, "description", "By hand");
        awaitText(browser, "#changes", "description");
        browser.find("#save [name=takeOver]").click();
        browser.find("#save .main").click();
        awaitText(browser, "#save .answer", "Version 2 is in force.");
        assertThat(job("quay/by-hand").schedules()).isEmpty();
        assertThat(job("quay/by-hand").description()).isEqualTo("By hand");
    }

    @Test
    void bothChangedTheSameIsSaid() {
        web.brume.define(Job.named(JobName.parse("quay/clash"))
                .every(Duration.ofHours(1))
                .handler("tide-tables")
                .ifFailed(IfFailed.attempts(2, Duration.ofMinutes(1)))
                .build());
        web.as(Role.AUTHOR);
        Web.Said read = web.get("/jobs/quay/clash/definition");
        Map<String, Object> theirs = read.map();
        theirs.put("ifFailed", Map.of("attempts", 4));
        web.send("PUT", "/jobs/quay/clash/definition?takeOver=true", theirs, "If-Match", "*")
                .is(200);
        Map<String, Object> mine = read.map();
        mine.put("ifFailed", Map.of("attempts", 3));
        Map<String, Object> drafted = draft(Map.of(
                "namespace", "quay", "name", "clash", "document", JsonText.line(mine), "seen", read.header("ETag")));
        assertThat(String.valueOf(drafted.get("meanwhile"))).contains("clashes=[ifFailed]", "version=2", "attempts: 3");
        web.post("/jobs/quay/clash/reversions", Map.of("version", 9)).is(404);
        web.post("/jobs/quay/clash/reversions", Map.of("version", 1), "If-Match", read.header("ETag"))
                .is(412);
        web.post("/jobs/quay/clash/reversions", Map.of("version", 1, "because", "back"))
                .is(200);
        assertThat(Optional.of(job("quay/clash").ifFailed())).contains(IfFailed.attempts(2, Duration.ofMinutes(1)));
    }
}
