using System.Net.Sockets;
using ComeAboard.Core.Accounts;
using DnsClient;
using DnsClient.Protocol;

namespace ComeAboard.Service.Accounts;

/// <summary>Looks TXT records up (RFC 1035). What is not answered tells nothing: neither that a record is there nor that it is not.</summary>
public sealed class DomainResolver
{
    private readonly LookupClient _client;

    public DomainResolver(ServiceSettings settings)
    {
        var options =
            settings.Dns.Servers.Count > 0
                ? new LookupClientOptions([.. settings.Dns.Servers])
                : new LookupClientOptions();
        // What somebody has just put there has to be seen, and whoever asks waits for the answer.
        options.UseCache = false;
        options.Timeout = settings.Dns.Timeout;
        options.Retries = 1;
        options.ThrowDnsErrors = false;
        options.ContinueOnDnsError = true;
        _client = new LookupClient(options);
    }

    /// <summary>Whether a name has a record with a text.</summary>
    /// <param name="name">The name.</param>
    /// <param name="text">What one of its TXT records has to hold.</param>
    public async Task<DomainLook> LookAsync(string name, string text)
    {
        try
        {
            var answer = await _client.QueryAsync(name, QueryType.TXT);
            return answer.Header.ResponseCode switch
            {
                DnsHeaderResponseCode.NoError => answer
                    .Answers.OfType<TxtRecord>()
                    .Any(record => string.Concat(record.Text).Trim() == text)
                    ? DomainLook.Shown
                    : DomainLook.Missing,
                DnsHeaderResponseCode.NotExistentDomain => DomainLook.Missing,
                _ => DomainLook.Unanswered,
            };
        }
        catch (Exception fault)
            when (fault is DnsResponseException or SocketException or InvalidOperationException)
        {
            return DomainLook.Unanswered;
        }
    }
}
