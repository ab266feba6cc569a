"""Currencies by their codes of three letters.

References
----------
.. [1] ISO 4217, codes for the representation of currencies; those in use, from memory.
"""

CODES = frozenset(
    """AED AFN ALL AMD ANG AOA ARS AUD AWG AZN BAM BBD BDT BGN BHD BIF BMD BND BOB BRL BSD BTN BWP BYN BZD CAD CDF
    CHF CLP CNY COP CRC CUP CVE CZK DJF DKK DOP DZD EGP ERN ETB EUR FJD FKP GBP GEL GHS GIP GMD GNF GTQ GYD HKD
    HNL HTG HUF IDR ILS INR IQD IRR ISK JMD JOD JPY KES KGS KHR KMF KPW KRW KWD KYD KZT LAK LBP LKR LRD LSL LYD
    MAD MDL MGA MKD MMK MNT MOP MRU MUR MVR MWK MXN MYR MZN NAD NGN NIO NOK NPR NZD OMR PAB PEN PGK PHP PKR PLN
    PYG QAR RON RSD RUB RWF SAR SBD SCR SDG SEK SGD SHP SLE SOS SRD SSP STN SYP SZL THB TJS TMT TND TOP TRY TTD
    TWD TZS UAH UGX USD UYU UZS VES VND VUV WST XAF XCD XOF XPF YER ZAR ZMW ZWG""".split()  # noqa: SIM905 - a list of words is read best as words
)
SIGNS = {"€": "EUR", "£": "GBP", "¥": "JPY"}  # of those that mean one currency


def currency(text: str) -> str:
    """Read a currency; empty for none.

    Raises
    ------
    ValueError
        If it is none.

    Examples
    --------
    >>> currency("eur"), currency("€"), currency("")
    ('EUR', 'EUR', '')
    """
    word = text.strip().upper()
    found = SIGNS.get(word, word)
    if found and found not in CODES:
        raise ValueError(
            f"“{text.strip()[:20]}” is not a currency; write its three letters, such as EUR or CHF (ISO 4217)"
        )
    return found
