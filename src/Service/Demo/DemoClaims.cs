using ComeAboard.Client;
using ComeAboard.Client.Accounts;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Workspaces;
using ComeAboard.Standins.Dns;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Demo;

/// <summary>
/// The domain of the demo's workspace, proved by the stand-in name server, and what became of the crew's own accounts at
/// it: some came into custody, one is asked, one declined, two nobody has asked.
/// </summary>
public static class DemoClaims
{
    private static readonly string[] Come = ["mira", "oona", "kofi", "sunniva", "rafael", "k.darkwater"];
    private const string Asked = "teodor";
    private const string Declined = "ilse";

    /// <summary>Lets it happen.</summary>
    /// <param name="client">An administrator's client.</param>
    /// <param name="services">The service's own parts.</param>
    /// <param name="dns">Where the record is put.</param>
    /// <param name="domain">The workspace's mail domain.</param>
    public static async Task MakeAsync(
        AboardClient client,
        IServiceProvider services,
        DnsStandin dns,
        string domain
    )
    {
        var added = await client.AddDomainAsync(new DomainRequest(domain));
        dns.Put(added.RecordName, added.RecordValue);
        await client.CheckDomainAsync(domain);
        await client.ClaimStepAsync(
            new ClaimStepRequest(
                "ask",
                [.. Come.Append(Asked).Append(Declined).Select(name => $"{name}@{domain}")],
                Reason: "The ship answers for the addresses of its crew, and keeps them when somebody loses a telephone overboard."
            )
        );
        foreach (var name in Come)
            await AnswerAsync(services, $"{name}@{domain}", "come");
        await AnswerAsync(services, $"{Declined}@{domain}", "decline");
    }

    private static async Task AnswerAsync(IServiceProvider services, string address, string answer)
    {
        var answers = services.GetRequiredService<ClaimAnswers>();
        await using var rows = services.GetRequiredService<Database>().Open();
        var account = await rows.Accounts.Where(a => a.Address == address).Select(a => a.Id).FirstAsync();
        var proof = new Proof(ProofWay.Password, services.GetRequiredService<TimeProvider>().Now());
        foreach (var found in await answers.WaitingAsync(account))
            _ = await answers.AnswerAsync(found, new ClaimAnswerRequest(answer), proof, "page");
    }
}
