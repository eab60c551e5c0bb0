using System.Net;
using System.Text;
using System.Text.RegularExpressions;
using ComeAboard.Client.Access;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.SignIn;
using ComeAboard.Client.Workspaces;
using ComeAboard.Service.Tests.World;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

public sealed class AsPractised_on_SQLite(SqliteHarbour harbour)
    : AsPractised(harbour),
        IClassFixture<SqliteHarbour>;

public sealed class AsPractised_on_PostgreSQL(PostgresHarbour harbour)
    : AsPractised(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>What those who use it every day ran into: ends that move, days of the workspace, names that are nearly right.</summary>
public abstract partial class AsPractised(Harbour harbour)
{
    [Fact]
    public async Task A_planned_end_is_moved_as_far_as_was_agreed_and_taken_back()
    {
        var ship = await harbour.NewShipAsync();
        var (ines, today) = (ship.Address("ines"), (await ship.Client.WorkspaceAsync()).Today);
        await ship.BringAboardAsync(ines, until: today.AddDays(30));
        Assert.Equal("departure.not-planned", await CodeOf(ship.Client.WithdrawEndAsync(ines)));
        await ship.Client.EndAsync(ines, today.AddDays(3));
        await ship.Client.EndAsync(ines, today.AddDays(9));
        Assert.Equal(today.AddDays(9), (await ship.Client.PersonAsync(ines)).Until);
        Assert.Equal("departure.later", await CodeOf(ship.Client.EndAsync(ines, today.AddDays(31))));
        // Tried first, then done.
        Assert.Equal(today.AddDays(30), (await ship.Client.WithdrawEndAsync(ines, dryRun: true)).Agreed);
        Assert.Equal(today.AddDays(9), (await ship.Client.PersonAsync(ines)).Until);
        Assert.Equal("undone", (await ship.Client.WithdrawEndAsync(ines)).State);
        Assert.Equal(today.AddDays(30), (await ship.Client.PersonAsync(ines)).Until);
        Assert.Equal("departure.not-planned", await CodeOf(ship.Client.WithdrawEndAsync(ines)));
        // Taking back twice at once, and against moving: one of the outcomes, never a third.
        await ship.Client.EndAsync(ines, today.AddDays(5));
        await Task.WhenAll(
            CodeOrNone(ship.Client.WithdrawEndAsync(ines)),
            CodeOrNone(ship.OtherNode.WithdrawEndAsync(ines)),
            CodeOrNone(ship.OtherNode.EndAsync(ines, today.AddDays(7)))
        );
        var after = (await ship.Client.PersonAsync(ines)).Until;
        Assert.Contains(after, new DateOnly?[] { today.AddDays(7), today.AddDays(30) });
        // Somebody of another workspace, and somebody without the duty, get nowhere.
        var other = await harbour.NewShipAsync();
        Assert.Equal("person.not-found", await CodeOf(other.Client.WithdrawEndAsync(ines)));
        await ship.BringAboardAsync(ship.Address("clerk"), "staff", "edit");
        using var clerk = await ship.ClientOfAsync(ship.Address("clerk"));
        Assert.Equal("right.missing", await CodeOf(clerk.WithdrawEndAsync(ines)));

        static async Task<string?> CodeOrNone(Task call)
        {
            try
            {
                await call;
                return null;
            }
            catch (Client.RefusedException refused)
            {
                return refused.Problem.Code;
            }
        }
    }

    [Fact]
    public async Task Somebody_leaves_by_themselves_after_seeing_what_they_lose()
    {
        var ship = await harbour.NewShipAsync();
        await ship.Client.Pools.AddAsync(new PoolRequest("Berth", 3));
        var kofi = ship.Address("kofi");
        await ship.BringAboardAsync(kofi);
        await ship.Client.GiveSeatsAsync("Berth", new PeopleRequest([kofi]));
        using var browser = await ship.BrowserOfAsync(kofi);
        using var there = await ship.BrowserOfAsync(kofi, atOtherNode: true);
        Assert.Contains(
            $"/places/{ship.Name}/leave",
            await browser.GetStringAsync(new Uri("/places", UriKind.Relative)),
            StringComparison.Ordinal
        );
        var path = new Uri($"/places/{ship.Name}/leave", UriKind.Relative);
        var page = WebUtility.HtmlDecode(await browser.GetStringAsync(path));
        Assert.Contains("Berth", page, StringComparison.Ordinal);
        // Looking changes nothing; without the form's token nothing happens either.
        Assert.False((await browser.PostAsync(path, null)).IsSuccessStatusCode);
        Assert.Equal("active", (await ship.Client.PersonAsync(kofi)).State);
        var answer = await browser.PostAsync(path, TokenOf(page));
        Assert.Equal(HttpStatusCode.OK, answer.StatusCode);
        Assert.Equal("ended", (await ship.Client.PersonAsync(kofi)).State);
        Assert.Equal(0, (await ship.Client.Pools.ShowAsync("Berth")).Held);
        Assert.NotEqual(HttpStatusCode.OK, (await there.GetAsync(path)).StatusCode);
        var history = (await ship.Client.PersonHistoryAsync((await ship.Client.PersonAsync(kofi)).Id)).Items;
        Assert.Equal(("member.ended", "Somebody kofi"), (history[^1].Action, history[^1].ActorName));
        await ship.MailAsync(kofi, "ended");

        // The last administrator is told why they cannot.
        using var mira = await ship.BrowserOfAsync(ship.Administrator);
        Assert.Equal(HttpStatusCode.Conflict, (await mira.GetAsync(path)).StatusCode);
        Assert.Equal("active", (await ship.Client.PersonAsync(ship.Administrator)).State);
    }

    [Theory]
    [InlineData("access.paused")]
    [InlineData("access.not-begun")]
    public async Task Whoever_is_kept_out_for_now_can_leave_for_good_and_do_nothing_else(string why)
    {
        var ship = await harbour.NewShipAsync();
        var (kofi, today) = (ship.Address("kofi"), (await ship.Client.WorkspaceAsync()).Today);
        await ship.Client.SendInvitationAsync(
            new InvitationRequest(kofi, "guest", "view")
            {
                From = why == "access.not-begun" ? today.AddDays(5) : null,
            },
            "kofi"
        );
        await ship.AcceptAsync(await ship.SecretAsync(kofi), "Kofi");
        if (why == "access.paused")
            await ship.Client.PeopleStepsAsync(new PeopleStepRequest("pause", [kofi], Reason: "Ashore"));
        using var browser = await ship.BrowserOfAsync(kofi);
        var path = new Uri($"/places/{ship.Name}/leave", UriKind.Relative);
        Assert.Contains(
            why,
            await (
                await browser.GetAsync(new Uri(ship.Path("/record"), UriKind.Relative))
            ).Content.ReadAsStringAsync(),
            StringComparison.Ordinal
        );
        var page = WebUtility.HtmlDecode(await browser.GetStringAsync(path));
        Assert.Equal(HttpStatusCode.OK, (await browser.PostAsync(path, TokenOf(page))).StatusCode);
        Assert.Equal("ended", (await ship.Client.PersonAsync(kofi)).State);
        Assert.Equal(HttpStatusCode.Unauthorized, (await browser.GetAsync(path)).StatusCode);
    }

    [Fact]
    public async Task Whose_stay_has_not_begun_is_told_so_when_signing_in()
    {
        var ship = await harbour.NewShipAsync();
        var (oona, first) = (ship.Address("oona"), (await ship.Client.WorkspaceAsync()).Today.AddDays(5));
        await ship.Client.SendInvitationAsync(
            new InvitationRequest(oona, "guest", "view") { From = first },
            "oona"
        );
        await ship.AcceptAsync(await ship.SecretAsync(oona), "Oona");
        using var anonymous = new Client.AboardClient(Harbour.UrlOf(harbour.Node));
        var refused = await Assert.ThrowsAsync<Client.RefusedException>(() =>
            anonymous.SignInAsync(new ProgramSignInRequest(oona, Ship.Password, ship.Name))
        );
        Assert.Equal("access.not-begun", refused.Problem.Code);
        Assert.Contains(first.ToString("yyyy-MM-dd"), refused.Problem.Title, StringComparison.Ordinal);
        // Who is not in it at all hears what they always heard.
        await ship.BringAboardAsync(ship.Address("kofi"));
        var other = await harbour.NewShipAsync();
        Assert.Equal(
            "workspace.not-found",
            await CodeOf(
                anonymous.SignInAsync(
                    new ProgramSignInRequest(ship.Address("kofi"), Ship.Password, other.Name)
                )
            )
        );
    }

    [Fact]
    public async Task What_is_only_tried_is_decided_as_it_would_be_and_leaves_nothing()
    {
        var ship = await harbour.NewShipAsync();
        var (rules, before) = (await ship.Client.RulesAsync(), await ship.Client.WorkspaceAsync());
        var token = (await ship.Client.AddTokenAsync(new TokenRequest("deck"))).Id;
        var entries = (await ship.Client.VerifyRecordAsync()).Entries;
        var looks = new AppearanceView("The Gull", null, "de", null) { Version = before.Appearance };

        Assert.Equal(
            10,
            (await ship.Client.ChangeRulesAsync(rules with { AnswerDays = 10 }, true)).AnswerDays
        );
        Assert.Equal("de", (await ship.Client.ChangeAppearanceAsync(looks, true)).Language);
        Assert.Equal("", (await ship.Client.AddTokenAsync(new TokenRequest("more"), true)).Token);
        await ship.Client.RevokeTokenAsync(token, true);
        Assert.Equal(
            "rules.out-of-range",
            await CodeOf(ship.Client.ChangeRulesAsync(rules with { AnswerDays = -1 }, true))
        );
        Assert.Equal(
            "workspace.time-zone",
            await CodeOf(
                ship.Client.ChangeAppearanceAsync(looks with { TimeZone = "Atlantis/Harbour" }, true)
            )
        );
        Assert.Equal(
            "token.days",
            await CodeOf(ship.Client.AddTokenAsync(new TokenRequest("long", 366), true))
        );
        Assert.Equal("not-found", await CodeOf(ship.Client.RevokeTokenAsync(Guid.NewGuid(), true)));
        Assert.Equal("not-found", await CodeOf(ship.Client.ForgetBounceAsync(ship.Address("ines"), true)));

        Assert.Equal(entries, (await ship.Client.VerifyRecordAsync()).Entries);
        Assert.Equal(rules.AnswerDays, (await ship.Client.RulesAsync()).AnswerDays);
        Assert.Equal(before.Language, (await ship.Client.WorkspaceAsync()).Language);
        Assert.Null((await ship.Client.TokensAsync()).Items.Single(one => one.Id == token).RevokedAt);
    }

    [Fact]
    public async Task A_workspace_changes_its_name_and_zone_and_nobody_overwrites_what_they_have_not_seen()
    {
        var ship = await harbour.NewShipAsync();
        var before = await ship.Client.WorkspaceAsync();
        var wish = new AppearanceView("The Gull's office", "office@gull.example", "de", null)
        {
            Name = "The Gull",
            TimeZone = "America/Los_Angeles",
            Version = before.Appearance,
        };
        await ship.Client.ChangeAppearanceAsync(wish);
        // The other node may hear of it within a second.
        var now = await Patience.UntilAsync(
            () => ship.OtherNode.WorkspaceAsync(),
            seen => seen.Name == "The Gull",
            tries: 40
        );
        Assert.Equal(
            ("The Gull", "America/Los_Angeles", "office@gull.example", "de"),
            (now.Name, now.TimeZone, now.ReplyTo, now.Language)
        );
        Assert.Equal(
            DateOnly.FromDateTime(
                TimeZoneInfo
                    .ConvertTime(
                        harbour.Clock.GetUtcNow(),
                        TimeZoneInfo.FindSystemTimeZoneById("America/Los_Angeles")
                    )
                    .DateTime
            ),
            now.Today
        );
        Assert.Equal("version.stale", await CodeOf(ship.Client.ChangeAppearanceAsync(wish)));
        Assert.Equal(
            "workspace.time-zone",
            await CodeOf(
                ship.Client.ChangeAppearanceAsync(
                    wish with
                    {
                        TimeZone = "Atlantis/Harbour",
                        Version = now.Appearance,
                    }
                )
            )
        );
        var entry = (await ship.Client.RecordAsync()).Items.First(e => e.Action == "appearance.changed");
        Assert.Equal("Europe/Lisbon", entry.Details!.Value.GetProperty("time zone before").GetString());
    }

    [Fact]
    public async Task Organisations_that_are_nearly_right_are_asked_about_wherever_they_are_written()
    {
        var ship = await harbour.NewShipAsync();
        await ship.Client.Organisations.AddAsync(new OrganisationRequest("Halyard Ropeworks", "partner"));
        var greta = ship.Address("greta");
        var request = new InvitationRequest(greta, "partner", "view") { Organisation = "Halyard Ropework" };
        Assert.Equal("organisation.unknown", await CodeOf(ship.Client.SendInvitationAsync(request, "a")));
        var preview = await ship.Client.PreviewInvitationAsync(
            request with
            {
                Until = new DateOnly(2020, 1, 1),
            }
        );
        // A bad date hides nothing else.
        Assert.Equal(
            ["organisation.unknown", "stay.past"],
            preview.Blockers.Select(blocker => blocker.Code).Order()
        );
        Assert.Contains(
            preview.Blockers,
            blocker => blocker.Command == "aboard organisations add 'Halyard Ropework' --kind partner"
        );
        var kept = await ship.Client.SendInvitationAsync(request with { OrganisationAsWritten = true }, "b");
        Assert.Equal(("Halyard Ropework", null), (kept.Organisation, kept.OrganisationId));
        await ship.BringAboardAsync(ship.Address("kofi"), "partner");
        var details = new DetailsRequest(Organisation: "Halyrad Ropeworks");
        Assert.Equal(
            "organisation.unknown",
            await CodeOf(ship.Client.ChangePersonAsync(ship.Address("kofi"), details))
        );
        var csv =
            $"Address,Organisation\n{ship.Address("a")},Halyard\n{ship.Address("b")},Halyard Ropeworks\n";
        var check = await ship.Client.CheckBatchAsync(
            new MemoryStream(Encoding.UTF8.GetBytes(csv)),
            "x.csv",
            new BatchDefaults("partner", "view")
        );
        Assert.Equal(
            [(1, "wrong"), (2, "ready")],
            check.Items.OrderBy(e => e.Number).Select(e => (e.Number, e.Verdict))
        );
    }

    [Fact]
    public async Task Whose_acceptance_will_wait_for_approval_is_told_so_before_and_after()
    {
        var ship = await harbour.NewShipAsync();
        await ship.Client.ChangeRulesAsync((await ship.Client.RulesAsync()) with { Approval = ["guest"] });
        var ines = ship.Address("ines");
        await ship.InviteAsync(ines);
        var secret = await ship.SecretAsync(ines);
        Assert.Contains("approved it", await ship.MailAsync(ines, "invites you"), StringComparison.Ordinal);
        Assert.True((await ship.Client.ReadLinkAsync(secret)).NeedsApproval);
        Assert.Null((await ship.AcceptAsync(secret, "Ines")).MemberId);
        Assert.Contains("approve", await ship.MailAsync(ines, "answer"), StringComparison.Ordinal);
        // Where nobody has to approve, nobody speaks of it.
        await ship.InviteAsync(ship.Address("kofi"), "partner");
        await ship.SecretAsync(ship.Address("kofi"));
        Assert.DoesNotContain(
            "approved it",
            await ship.MailAsync(ship.Address("kofi"), "invites you"),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task A_list_saved_as_a_file_is_the_whole_list()
    {
        var ship = await harbour.NewShipAsync();
        await Task.WhenAll(
            Enumerable.Range(0, 210).Select(n => ship.Client.Groups.AddAsync(new GroupRequest($"Watch {n}")))
        );
        var entries = (await ship.Client.VerifyRecordAsync()).Entries;
        Assert.InRange(entries, 210, 1000);
        var csv = Encoding.UTF8.GetString(await ship.Client.CsvAsync("record?format=csv"));
        var numbers = SequencePattern().Matches(csv).Select(m => long.Parse(m.Groups[1].Value)).ToList();
        Assert.Equal(Enumerable.Range(1, (int)entries).Select(n => (long)n).Reverse(), numbers);
    }

    private static FormUrlEncodedContent TokenOf(string page)
    {
        var token = TokenPattern().Match(page);
        return new FormUrlEncodedContent(
            new Dictionary<string, string> { [token.Groups[1].Value] = token.Groups[2].Value }
        );
    }

    [GeneratedRegex("name=\"(__Request[^\"]*)\" value=\"([^\"]*)\"")]
    private static partial Regex TokenPattern();

    [GeneratedRegex("^(\\d+),", RegexOptions.Multiline)]
    private static partial Regex SequencePattern();
}
