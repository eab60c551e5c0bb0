using System.Security.Cryptography;
using System.Text;

namespace ComeAboard.Core.Invitations;

/// <summary>
/// The addresses of one list in its order: which entry has one first, and which domains so many have that they are no slip.
/// </summary>
/// <remarks>Kept in little room, for lists of a million: of each address half a digest, which tells them apart.</remarks>
/// <param name="expected">How many entries there will be, as far as is known: so much room is made at once, and none is outgrown.</param>
public sealed class ListedAddresses(int expected = 0)
{
    // So many people rarely mistype the same domain in the same way.
    private const int Several = 3;

    private readonly Dictionary<UInt128, int> _first = new(expected);
    private readonly Dictionary<string, int> _domains = new(StringComparer.Ordinal);

    /// <summary>Takes note of an entry's address.</summary>
    /// <param name="number">The entry's place in the list, from 1.</param>
    /// <param name="address">Its address.</param>
    /// <returns>The number of the entry that has the same address and came first; null when this one did.</returns>
    public int? Note(int number, EmailAddress address)
    {
        var key = KeyOf(address);
        return _first.TryAdd(key, number) || _first[key] == number ? null : _first[key];
    }

    /// <summary>Counts an address for its domain.</summary>
    /// <returns>True once for each domain: when several entries are at it.</returns>
    public bool IsUsual(EmailAddress address)
    {
        var count = _domains.GetValueOrDefault(address.Domain);
        if (count >= Several)
            return false;
        _domains[address.Domain] = count + 1;
        return count + 1 == Several;
    }

    private static UInt128 KeyOf(EmailAddress address)
    {
        Span<byte> digest = stackalloc byte[32];
        SHA256.HashData(Encoding.UTF8.GetBytes(address.Key), digest);
        return System.Buffers.Binary.BinaryPrimitives.ReadUInt128LittleEndian(digest);
    }
}
