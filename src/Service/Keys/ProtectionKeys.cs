using System.Xml.Linq;
using ComeAboard.Storage;
using ComeAboard.Storage.Workspaces;
using Microsoft.AspNetCore.DataProtection.Repositories;

namespace ComeAboard.Service.Keys;

/// <summary>Keeps the keys of ASP.NET Data Protection in the database, where every service process finds them.</summary>
public sealed class ProtectionKeys(Database database) : IXmlRepository
{
    public IReadOnlyCollection<XElement> GetAllElements()
    {
        using var rows = database.Open();
        return [.. rows.ProtectionKeys.Select(k => k.Xml).ToList().Select(XElement.Parse)];
    }

    public void StoreElement(XElement element, string friendlyName)
    {
        using var rows = database.Open();
        rows.ProtectionKeys.Add(
            new ProtectionKeyRow
            {
                Name = friendlyName,
                Xml = element.ToString(SaveOptions.DisableFormatting),
            }
        );
        rows.SaveChanges();
    }
}
